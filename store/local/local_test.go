package local

import (
	"bufio"
	"context"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"testing"
	"time"
)

// The test binary started with a folder is a program that runs a database and is killed.
func TestMain(m *testing.M) {
	if dir := os.Getenv("HAMMERSET_TEST_LOCAL"); dir != "" {
		s, err := Start(context.Background(), dir)
		if err != nil {
			fmt.Println("failed:", err)
			os.Exit(1)
		}
		fmt.Println("up", s.DSN)
		select {}
	}
	os.Exit(m.Run())
}

func answers(dsn string) error {
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	return db.Ping()
}

// The program is killed while its database runs: the next start ends what was left behind. A
// database that dies under a running program is started again, with what was in it.
func TestSurvives(t *testing.T) {
	dir := t.TempDir()
	first := exec.Command(os.Args[0])
	first.Env = append(os.Environ(), "HAMMERSET_TEST_LOCAL="+dir)
	out, err := first.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := first.Start(); err != nil {
		t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil || !strings.HasPrefix(line, "up ") {
		t.Fatalf("the first program: %q %v", line, err)
	}
	if _, err := Start(context.Background(), dir); err == nil || !strings.Contains(err.Error(), "another Hammerset runs") {
		t.Errorf("a second program on the same data: %v", err)
	}
	old := strings.TrimSpace(strings.TrimPrefix(line, "up "))
	if err := first.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	_ = first.Wait() // it was killed
	if err := answers(old); err != nil {
		t.Fatalf("the orphan does not run, so that nothing is tried: %v", err)
	}
	s, err := Start(context.Background(), dir)
	if err != nil {
		t.Fatalf("after a kill: %v", err)
	}
	defer s.Stop()
	if err := answers(old); err == nil {
		t.Error("the orphan still runs")
	}
	db, err := sql.Open("mysql", s.DSN)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("CREATE TABLE kept (n INT)"); err != nil {
		t.Fatal(err)
	}
	if err := s.cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	for range 300 {
		time.Sleep(100 * time.Millisecond)
		var n int
		if err = db.QueryRow("SELECT COUNT(*) FROM kept").Scan(&n); err == nil {
			return
		}
	}
	t.Errorf("the database was not started again: %v", err)
}
