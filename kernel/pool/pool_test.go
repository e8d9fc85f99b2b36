package pool

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net"
	"os"
	"os/exec"
	"strings"
	"sync"
	"testing"
	"time"

	"hammerset/core/modeller"
	"hammerset/demo"
	"hammerset/kernel/child"
	"hammerset/kernel/task"
)

// The test binary is its own kernel child.
func TestMain(m *testing.M) {
	switch os.Getenv("HAMMERSET_TEST_CHILD") {
	case "serve":
		if err := child.Harden(8 << 30); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		if err := child.Serve(context.Background(), os.Stdin, os.Stdout); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		os.Exit(0)
	case "probe":
		probe()
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// probe says what a hardened child can still reach.
func probe() {
	if err := child.Harden(8 << 30); err != nil {
		fmt.Println("harden:", err)
		return
	}
	for _, path := range []string{"/etc/hostname", "/proc/1/environ", "/root"} {
		if _, err := os.ReadFile(path); err == nil {
			fmt.Println("read", path)
		} else if _, err := os.ReadDir(path); err == nil {
			fmt.Println("listed", path)
		}
	}
	if f, err := os.CreateTemp("", "probe"); err == nil {
		fmt.Println("wrote", f.Name())
	}
	if c, err := net.DialTimeout("tcp", os.Getenv("HAMMERSET_TEST_ADDRESS"), time.Second); err == nil {
		fmt.Println("connected")
		c.Close()
	}
	if os.Getuid() == 0 {
		fmt.Println("is root")
	}
	fmt.Println("probed")
}

func start(t *testing.T, size int, wall time.Duration) *Pool {
	t.Helper()
	p := New(Config{Command: []string{os.Args[0]}, Env: []string{"HAMMERSET_TEST_CHILD=serve"}, Size: size, Wall: wall})
	t.Cleanup(p.Close)
	return p
}

const block = `{"hammerset":"model/1","name":"block","unit":"mm","parameters":[{"name":"a","value":"10 mm"}],"steps":[
	{"id":"s","kind":"sketch","plane":{"datum":"XY"},"entities":[{"id":"m","kind":"point","at":[0,0]},{"id":"c",
	"kind":"circle","center":"m","radius":5}],"constraints":[{"id":"d","kind":"diameter","of":["c"],"value":"a"}]},
	{"id":"e","kind":"extrude","sketch":"s","extent":{"kind":"one-side","length":"4"}}]}`

func rebuild(p *Pool, doc string) (*modeller.Rebuilt, error) {
	raw, err := p.Do(context.Background(), &task.Request{Kind: task.Rebuild, File: []byte(doc)}, nil)
	if err != nil {
		return nil, err
	}
	var r modeller.Rebuilt
	return &r, json.Unmarshal(raw, &r)
}

// alive proves that the pool still works.
func alive(t *testing.T, p *Pool) {
	t.Helper()
	if r, err := rebuild(p, block); err != nil || r.Solids != 1 || r.Faces != 3 {
		t.Fatalf("the pool does not work any more: %v %+v", err, r)
	}
}

func checkFile(p *Pool, file []byte) error {
	b, err := demo.Bundle("bearing-bracket")
	if err != nil {
		return err
	}
	_, err = p.Do(context.Background(), &task.Request{Kind: task.Check, Exercise: b.Exercise, Reference: b.Reference,
		Name: "hostile", File: file}, nil)
	return err
}

// Whatever is handed in, the task ends with a reason and the pool goes on.
func TestHostileFiles(t *testing.T) {
	p := start(t, 1, 60*time.Second)
	head := "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n" +
		"FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n"
	var million bytes.Buffer
	million.WriteString(head)
	for i := range 1_000_000 {
		fmt.Fprintf(&million, "#%d=CARTESIAN_POINT('',(0.,0.,0.));\n", i+1)
	}
	million.WriteString("ENDSEC;\nEND-ISO-10303-21;\n")
	cyclic := head + "#1=MANIFOLD_SOLID_BREP('',#2);\n#2=CLOSED_SHELL('',(#3));\n" +
		"#3=ADVANCED_FACE('',(#4),#3,.T.);\n#4=FACE_BOUND('',#4,.T.);\nENDSEC;\nEND-ISO-10303-21;\n"
	deep := `{"hammerset":"model/1","name":"x","unit":"mm","parameters":[{"name":"a","value":"` +
		strings.Repeat("(", 900) + `"}],"steps":[]}`
	for _, c := range []struct{ name, file string }{
		{"garbage", strings.Repeat("\x00\xff\x13garbage", 5000)},
		{"garbage behind a STEP head", head + strings.Repeat("#1=(;,'\x01", 20000)},
		{"a truncated STEP file", head + "#1=CARTESIAN_POINT('',(0.,"},
		{"references to nothing", head + "#1=MANIFOLD_SOLID_BREP('',#99);\nENDSEC;\nEND-ISO-10303-21;\n"},
		{"references in a circle", cyclic},
		{"a million entities", million.String()},
		{"formulas nested without end", deep},
		{"a document that is a list", "[" + strings.Repeat("[", 10000)},
		{"nothing", ""},
	} {
		err := checkFile(p, []byte(c.file))
		var te *task.Error
		if !errors.As(err, &te) || te.What == "" || te.Remedy == "" {
			t.Errorf("%s: %v", c.name, err)
		}
		alive(t, p)
	}
}

// A damaged file that makes the library crash, and one that it never ends reading, are said to be
// damaged, at once and in a bounded time. (Both are mutants of a part of the demo.)
func TestDamagedFiles(t *testing.T) {
	p := New(Config{Command: []string{os.Args[0]}, Env: []string{"HAMMERSET_TEST_CHILD=serve"}, Size: 1,
		Wall: 60 * time.Second, Reading: 3 * time.Second})
	defer p.Close()
	for _, name := range []string{"crash.step", "endless.step"} {
		data, err := os.ReadFile("testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		var te *task.Error
		if err := checkFile(p, data); !errors.As(err, &te) || te.Kind != task.Crashed ||
			!strings.Contains(te.What, "damaged") {
			t.Errorf("%s: %v", name, err)
		}
		alive(t, p)
	}
}

// A fillet of which the library crashes fails alone: the model is rebuilt with care, the steps
// before it stand, and what fits is said.
func TestCrashOfOneStep(t *testing.T) {
	p := start(t, 1, 60*time.Second)
	doc, err := os.ReadFile("testdata/fillet.json")
	if err != nil {
		t.Fatal(err)
	}
	req := &task.Request{Kind: task.Rebuild, File: doc}
	var te *task.Error
	if _, err := p.once(context.Background(), req, nil); !errors.As(err, &te) || te.Kind != task.Crashed {
		t.Skipf("this library does not crash of it: %v", err)
	}
	raw, err := p.Do(context.Background(), req, nil)
	if err != nil {
		t.Fatal(err)
	}
	var out modeller.Rebuilt
	if err := json.Unmarshal(raw, &out); err != nil {
		t.Fatal(err)
	}
	for _, s := range out.Steps {
		if last := s.ID == "f2"; s.Failed != last || last &&
			!strings.Contains(s.Message, "the largest that fits there is about") {
			t.Errorf("step %s: failed %v, %s", s.ID, s.Failed, s.Message)
		}
	}
}

// slow is a model that takes minutes: hundreds of crossing tools.
func slow() string {
	var ents []string
	for i := range 60 {
		ents = append(ents, fmt.Sprintf(`{"id":"m%d","kind":"point","at":[%d,%d]},{"id":"c%d","kind":"circle","center":"m%d",
	"radius":%g}`, i, i%8*3, i/8*3, i, i, 4+float64(i)/7))
	}
	return `{"hammerset":"model/1","name":"slow","unit":"mm","parameters":[],"steps":[{"id":"s","kind":"sketch",
	"plane":{"datum":"XY"},"entities":[` + strings.Join(ents, ",") + `]},
	{"id":"e","kind":"extrude","sketch":"s","regions":"all","extent":{"kind":"one-side","length":"4"}},{"id":"r",
	"kind":"circular-pattern","of":["e"],"axis":{"datum":"X"},"count":"400"}]}`
}

func TestSlowTasksAreGivenUp(t *testing.T) {
	p := start(t, 1, 3*time.Second)
	_, err := rebuild(p, slow())
	var te *task.Error
	if !errors.As(err, &te) || te.Kind != task.TimedOut || !strings.Contains(te.Error(), "longer than 3s") {
		t.Errorf("a slow model: %v", err)
	}
	alive(t, p)
	// The processor time of the child is limited by itself, too.
	q := New(Config{Command: []string{os.Args[0]}, Env: []string{"HAMMERSET_TEST_CHILD=serve"}, Size: 1, Wall: time.Minute,
		CPU: time.Second})
	defer q.Close()
	if _, err := rebuild(q, slow()); !errors.As(err, &te) || te.Kind != task.TimedOut ||
		!strings.Contains(te.Error(), "more than 1s of processor time") {
		t.Errorf("a model over its processor time: %v", err)
	}
	alive(t, q)
}

func TestCancelAndCrash(t *testing.T) {
	p := start(t, 1, time.Minute)
	ctx, cancel := context.WithTimeout(context.Background(), 500*time.Millisecond)
	defer cancel()
	if _, err := p.Do(ctx, &task.Request{Kind: task.Rebuild, File: []byte(slow())}, nil); !errors.Is(err,
		context.DeadlineExceeded) {
		t.Errorf("a cancelled task: %v", err)
	}
	alive(t, p)
	// A child that is killed from outside: its task fails, the next has another.
	own := &turn{}
	c, err := p.take(context.Background(), own)
	if err != nil {
		t.Fatal(err)
	}
	p.give(own, c)
	failed := make(chan error)
	go func() {
		_, err := rebuild(p, slow())
		failed <- err
	}()
	time.Sleep(300 * time.Millisecond)
	if err := c.cmd.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	var te *task.Error
	if err := <-failed; !errors.As(err, &te) || te.Kind != task.Killed {
		t.Errorf("a killed child: %v", err)
	}
	alive(t, p)
}

func TestManyTasksAtOnce(t *testing.T) {
	p := start(t, 2, time.Minute)
	var wg sync.WaitGroup
	for i := range 12 {
		wg.Go(func() {
			doc := strings.Replace(block, "10 mm", fmt.Sprintf("%d mm", 10+i), 1)
			r, err := rebuild(p, doc)
			if d := float64(10 + i); err != nil || r.Volume < 3.14*d*d || r.Volume > 3.15*d*d {
				t.Errorf("task %d: %v %+v", i, err, r)
			}
		})
	}
	wg.Wait()
}

func TestProgressIsTold(t *testing.T) {
	p := start(t, 1, time.Minute)
	b, err := demo.Bundle("gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	var stages []string
	_, err = p.Do(context.Background(), &task.Request{Kind: task.Check, Exercise: b.Exercise, Reference: b.Reference,
		Name: "a.json", File: b.Reference}, func(pr task.Progress) {
		if len(stages) == 0 || stages[len(stages)-1] != pr.Stage {
			stages = append(stages, pr.Stage)
		}
	})
	if got := strings.Join(stages, " > "); err != nil || got != "reading > rebuilding > measuring > looking for causes "+
		"> laying it over the reference > varying sizes > marking" {
		t.Errorf("%v: %s", err, got)
	}
}

// A hardened child reaches no file, no network and no rights of root.
func TestSandbox(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	p := New(Config{Command: []string{os.Args[0]}, Size: 0})
	var out bytes.Buffer
	cmd := exec.Command(os.Args[0])
	cmd.Env = []string{"HAMMERSET_TEST_CHILD=probe", "HAMMERSET_TEST_ADDRESS=" + l.Addr().String()}
	cmd.Stdout = &out
	cmd.SysProcAttr = p.isolation()
	if err := cmd.Run(); err != nil {
		t.Fatal(err)
	}
	if got := out.String(); got != "probed\n" {
		t.Errorf("a child could do this:\n%s", got)
	}
}

// A task on a model goes to the child that had the model last, since that still has
// its states; other tasks leave that child alone while another is idle.
func TestModelsKeepTheirChild(t *testing.T) {
	p := start(t, 2, time.Minute)
	pid := func(key string) int {
		t.Helper()
		if _, err := p.Do(context.Background(), &task.Request{Kind: task.Verify, File: []byte(`{"hammerset":"model/1",
	"name":"n","unit":"mm","parameters":[],"steps":[]}`), Keep: key}, nil); err != nil {
			t.Fatal(err)
		}
		p.mu.Lock()
		defer p.mu.Unlock()
		return p.idle[len(p.idle)-1].cmd.Process.Pid
	}
	a := pid("model 1")
	b := pid("model 2")
	if a == b {
		t.Error("two models share a child while another could have been started")
	}
	for range 3 {
		if pid("model 1") != a || pid("model 2") != b {
			t.Error("a model went to the other child")
		}
	}
}

// Tasks that belong together come back in order, whoever did them; the first that
// fails ends the others.
func TestSpread(t *testing.T) {
	p := start(t, 2, time.Minute)
	var reqs []*task.Request
	for d := range 7 {
		reqs = append(reqs, &task.Request{Kind: task.Rebuild, File: []byte(block),
			Set: map[string]string{"a": fmt.Sprint(10 + d)}})
	}
	raw, err := p.Spread(context.Background(), reqs, nil)
	if err != nil || len(raw) != 7 {
		t.Fatal(len(raw), err)
	}
	for d, r := range raw {
		var out modeller.Rebuilt
		if err := json.Unmarshal(r, &out); err != nil || math.Abs(out.Volume-math.Pi*math.Pow(float64(10+d), 2)) > 1e-6 {
			t.Errorf("share %d has %g mm³, %v", d, out.Volume, err)
		}
	}
	reqs[3] = &task.Request{Kind: task.Rebuild, File: []byte("{}")}
	var te *task.Error
	for range 20 { // each time another task may be ended just as it answers
		if _, err := p.Spread(context.Background(), reqs, nil); !errors.As(err, &te) || te.Kind == task.Crashed {
			t.Fatalf("a share that fails: %v", err)
		}
		if _, err := rebuild(p, block); err != nil {
			t.Fatalf("after that: %v", err)
		}
	}
}
