// Package local runs a MariaDB server of the application's own, on loopback,
// with its data in a folder of the application's.
package local

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Server is a MariaDB server that is kept running.
type Server struct {
	DSN string // for the application's database

	command func() *exec.Cmd
	cmd     *exec.Cmd
	exited  chan error
	stop    chan struct{} // closed when it is to end
	done    chan struct{} // closed when it has ended for good
	log     *slog.Logger
	logName string // the file into which it writes what it has to say
}

// find looks for a program where Debian puts servers as well.
func find(name string) (string, error) {
	if p, err := exec.LookPath(name); err == nil {
		return p, nil
	}
	for _, dir := range []string{"/usr/sbin", "/usr/local/sbin", "/sbin"} {
		p := filepath.Join(dir, name)
		if _, err := os.Stat(p); err == nil {
			return p, nil
		}
	}
	return "", fmt.Errorf("the program %s is missing: install Debian's package mariadb-server", name)
}

// leastDisk is the free space without which the server is not started.
const leastDisk = 300 << 20

// Start starts the server with its data in dir, which is made and filled when it
// is new. It is started again when it ends by itself, and ends with Stop. A server that an
// earlier run has left behind is ended first.
func Start(ctx context.Context, dir string) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for the data cannot be made: %w", err)
	}
	var fs syscall.Statfs_t
	if err := syscall.Statfs(dir, &fs); err == nil && fs.Bavail*uint64(fs.Bsize) < leastDisk {
		return nil, fmt.Errorf("too little disk: %d MB are free in %s and %d MB are needed", fs.Bavail*uint64(fs.Bsize)>>20,
			dir, leastDisk>>20)
	}
	daemon, err := find("mariadbd")
	if err != nil {
		return nil, err
	}
	me, err := user.Current()
	if err != nil {
		return nil, err
	}
	data := filepath.Join(dir, "data")
	// A server that starts takes away what others have left of temporary tables in its folder for these; in one that all
	// share, that of a server which is being set up at that moment.
	temporary := filepath.Join(dir, "tmp")
	if err := os.MkdirAll(temporary, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for temporary tables cannot be made: %w", err)
	}
	if _, err := os.Stat(filepath.Join(data, "mysql")); errors.Is(err, os.ErrNotExist) {
		install, err := find("mariadb-install-db")
		if err != nil {
			return nil, err
		}
		cmd := exec.CommandContext(ctx, install, "--no-defaults", "--datadir="+data, "--user="+me.Username,
			"--auth-root-authentication-method=socket", "--auth-root-socket-user="+me.Username, "--skip-test-db")
		cmd.Env = append(os.Environ(), "TMPDIR="+temporary)
		out, err := cmd.CombinedOutput()
		if err != nil {
			_ = os.RemoveAll(data) // what is half there would be taken for a database the next time
			return nil, fmt.Errorf("the database cannot be set up: %w: %s", err, faults(string(out)))
		}
	}
	password, err := secret(filepath.Join(dir, "password"))
	if err != nil {
		return nil, err
	}
	lock, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	// The system lets go of it when this program ends, however it ends.
	if err := syscall.Flock(int(lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		lock.Close()
		return nil, fmt.Errorf("another Hammerset runs on the data in %s; stop that one, or give another folder with --data",
			dir)
	}
	if err := endOrphan(dir, data); err != nil {
		return nil, err
	}
	port, err := freePort()
	if err != nil {
		return nil, err
	}
	// The socket's path must be short; a folder in /tmp of our own keeps it so.
	run, err := os.MkdirTemp("", "hammerset-db-")
	if err != nil {
		return nil, err
	}
	logName := filepath.Join(dir, "mariadb.log")
	socket := filepath.Join(run, "s")
	s := &Server{logName: logName, exited: make(chan error, 1), stop: make(chan struct{}), done: make(chan struct{}),
		log: slog.Default()}
	s.command = func() *exec.Cmd {
		cmd := exec.Command(daemon, "--no-defaults", "--datadir="+data, "--user="+me.Username, "--bind-address=127.0.0.1",
			"--port="+strconv.Itoa(port), "--tmpdir="+temporary,
			"--socket="+socket, "--pid-file="+filepath.Join(dir, "pid"), "--max-allowed-packet=256M",
			"--innodb-log-file-size=512M", "--innodb-flush-log-at-trx-commit=1",
			"--character-set-server=utf8mb4", "--skip-name-resolve", "--skip-log-bin", "--performance-schema=OFF")
		if f, err := os.OpenFile(logName, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600); err == nil {
			cmd.Stdout, cmd.Stderr = f, f
		}
		cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // Ctrl-C is for us; we then stop it in order
		return cmd
	}
	if err := s.run(); err != nil {
		return nil, err
	}
	if err := s.prepare(ctx, socket, me.Username, password); err != nil {
		_ = s.cmd.Process.Kill() // it may have ended already
		return nil, fmt.Errorf("%w (see %s)", err, logName)
	}
	go func() {
		s.keep(func() bool {
			var fs syscall.Statfs_t
			return syscall.Statfs(dir, &fs) != nil || fs.Bavail*uint64(fs.Bsize) >= leastDisk/10
		})
		os.RemoveAll(run)
		lock.Close()
		close(s.done)
	}()
	cfg := mysql.NewConfig()
	cfg.User, cfg.Passwd, cfg.Net, cfg.Addr, cfg.DBName = "hammerset", password, "tcp",
		net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), "hammerset"
	s.DSN = cfg.FormatDSN()
	// Workers that are started by themselves read it from here.
	if err := os.WriteFile(filepath.Join(dir, "dsn"), []byte(s.DSN), 0o600); err != nil {
		s.Stop()
		return nil, err
	}
	return s, nil
}

// prepare waits until the server answers and makes the database and its user.
func (s *Server) prepare(ctx context.Context, socket, root, password string) error {
	client, err := find("mariadb")
	if err != nil {
		return err
	}
	sql := fmt.Sprintf(`CREATE DATABASE IF NOT EXISTS hammerset CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE OR REPLACE USER hammerset@'127.0.0.1' IDENTIFIED BY '%s';
GRANT ALL ON %s.* TO hammerset@'127.0.0.1';`, password, "`hammerset%`")
	var trouble string
	for range 300 {
		select {
		case err := <-s.exited:
			s.exited <- err
			return fmt.Errorf("MariaDB ended at once: %v", err)
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
		cmd := exec.CommandContext(ctx, client, "--no-defaults", "--socket="+socket, "--user=root")
		cmd.Stdin = strings.NewReader(sql)
		out, err := cmd.CombinedOutput()
		if err == nil {
			return nil
		}
		trouble = last(string(out))
	}
	return fmt.Errorf("MariaDB does not answer: %s", trouble)
}

// run starts the program.
func (s *Server) run() error {
	s.cmd = s.command()
	err := s.cmd.Start()
	if f, ok := s.cmd.Stdout.(*os.File); ok {
		f.Close()
	}
	if err != nil {
		return fmt.Errorf("MariaDB cannot be started: %w", err)
	}
	cmd := s.cmd
	go func() { s.exited <- cmd.Wait() }()
	return nil
}

// keep starts the server again whenever it has ended, after a pause that grows, until Stop.
// Without room on the disk it waits for some.
func (s *Server) keep(room func() bool) {
	const longest = 30 * time.Second
	pause := 200 * time.Millisecond
	began := time.Now()
	for {
		select {
		case err := <-s.exited:
			if time.Since(began) > time.Minute {
				pause = 200 * time.Millisecond
			}
			s.log.Error("MariaDB has ended; it is started again", "error", err, "in", pause, "said", s.said())
		case <-s.stop:
			s.end()
			return
		}
		for started := false; !started; {
			select {
			case <-time.After(pause):
			case <-s.stop:
				return
			}
			pause = min(2*pause, longest)
			if !room() {
				s.log.Error("MariaDB waits for room on the disk")
				continue
			}
			if err := s.run(); err != nil {
				s.log.Error("MariaDB", "error", err)
				continue
			}
			started, began = true, time.Now()
		}
	}
}

// said is the end of what the server has written into its log.
func (s *Server) said() string {
	const most = 3000
	data, err := os.ReadFile(s.logName)
	if err != nil {
		return err.Error()
	}
	return string(data[max(0, len(data)-most):])
}

func (s *Server) end() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM) // it may have ended already
	select {
	case <-s.exited:
	case <-time.After(30 * time.Second):
		_ = s.cmd.Process.Kill()
		<-s.exited
	}
}

// Stop ends the server in order and waits for it.
func (s *Server) Stop() {
	close(s.stop)
	<-s.done
}

// endOrphan ends a server that still runs on the data because the program that started it was
// killed. It is known by the file with its number and by its own command line.
func endOrphan(dir, data string) error {
	b, err := os.ReadFile(filepath.Join(dir, "pid"))
	if err != nil {
		return nil // none was left
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
	if err != nil || pid <= 1 {
		return nil
	}
	ours := func() bool {
		line, err := os.ReadFile(filepath.Join("/proc", strconv.Itoa(pid), "cmdline"))
		return err == nil && strings.Contains(string(line), "\x00--datadir="+data+"\x00")
	}
	if !ours() {
		return nil
	}
	if err := syscall.Kill(pid, syscall.SIGTERM); err != nil {
		return fmt.Errorf("a database of an earlier run still has the data in %s and cannot be ended: %w", dir, err)
	}
	for range 300 {
		if !ours() {
			return nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	return fmt.Errorf("a database of an earlier run (process %d) does not end; end it, and start again", pid)
}

// faults are the lines of a program's output that tell of errors, else its last line.
func faults(out string) string {
	var list []string
	for line := range strings.Lines(out) {
		if strings.Contains(line, "ERROR") {
			list = append(list, strings.TrimSpace(line))
		}
	}
	if len(list) == 0 {
		return last(out)
	}
	return strings.Join(list, "; ")
}

func last(out string) string {
	lines := strings.Split(strings.TrimSpace(out), "\n")
	return lines[len(lines)-1]
}

func secret(path string) (string, error) {
	if b, err := os.ReadFile(path); err == nil {
		return strings.TrimSpace(string(b)), nil
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return "", err
	}
	s := hex.EncodeToString(raw)
	return s, os.WriteFile(path, []byte(s), 0o600)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
