// Package pool keeps kernel child processes and gives them tasks. A child that
// crashes or takes too long is replaced; its task fails with a reason and
// nothing else is lost.
package pool

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"sync"
	"syscall"
	"time"

	"hammerset/kernel/task"
)

// Config says how children are started and limited.
type Config struct {
	Command []string      // program and arguments of a child
	Env     []string      // added to an otherwise empty environment
	Size    int           // children at most
	Wall    time.Duration // longest time of one task
	CPU     time.Duration // most processor time of one task
	Reading time.Duration // longest time of reading a file of an attempt, with a second for every MB
	Tasks   int           // tasks after which a child is replaced, against slow leaks
	Reports Reports       // where reports of parts are kept; nil for the memory of this process
}

// Pool is a pool of children. Its methods may be called concurrently.
type Pool struct {
	cfg Config
	end sync.Once

	mu      sync.Mutex
	idle    []*process // nil stands for a child not yet started
	waiting []*turn
	running map[string]int // how many children each owner has at work
	served  map[string]int // when each owner was served last, counted in turns
	count   int
	behind  int // children at work in the background
}

// New makes a pool; children are started when they are needed.
func New(cfg Config) *Pool {
	if cfg.Wall == 0 {
		cfg.Wall = 3 * time.Minute
	}
	if cfg.Reading == 0 {
		cfg.Reading = 15 * time.Second
	}
	if cfg.CPU == 0 {
		cfg.CPU = cfg.Wall
	}
	if cfg.Tasks == 0 {
		cfg.Tasks = 100
	}
	if cfg.Reports == nil {
		cfg.Reports = newMemory()
	}
	return &Pool{cfg: cfg, idle: make([]*process, cfg.Size), running: map[string]int{}, served: map[string]int{}}
}

type process struct {
	cmd    *exec.Cmd
	in     io.WriteCloser
	out    io.Reader
	stderr *tail
	tasks  int
	key    string // of the model that it had last
}

// tail keeps the last bytes that a child wrote to its standard error.
type tail struct {
	mu  sync.Mutex
	buf []byte
}

func (t *tail) Write(p []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.buf = append(t.buf, p...)
	if len(t.buf) > 4096 {
		t.buf = t.buf[len(t.buf)-4096:]
	}
	return len(p), nil
}

// running is a child at a task: whichever comes first, that it is killed or that it has answered, counts.
// One that was killed just after it had answered would wait, dead, for the next task.
type running struct {
	*process
	mu   sync.Mutex
	over bool
	slow bool // it was killed since it read for too long
}

// kill ends the child, unless the task is over.
func (r *running) kill(slow bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.over {
		return
	}
	r.over, r.slow = true, slow
	_ = r.cmd.Process.Kill() // whoever reads what it answers sees the end
}

// answered says that the child has answered, unless it was killed before.
func (r *running) answered() bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	was := r.over
	r.over = true
	return !was
}

func (p *Pool) start() (*process, error) {
	// A network namespace of its own, with no interface but a closed loopback;
	// where the system does not allow one, Landlock still refuses sockets.
	c, err := p.spawn(p.isolation())
	if errors.Is(err, syscall.EPERM) {
		c, err = p.spawn(nil)
	}
	return c, err
}

// isolation asks for a network namespace: directly as root, through a user
// namespace otherwise.
func (p *Pool) isolation() *syscall.SysProcAttr {
	if os.Getuid() == 0 {
		return &syscall.SysProcAttr{Cloneflags: syscall.CLONE_NEWNET}
	}
	return &syscall.SysProcAttr{Cloneflags: syscall.CLONE_NEWUSER | syscall.CLONE_NEWNET}
}

func (p *Pool) spawn(attr *syscall.SysProcAttr) (*process, error) {
	cmd := exec.Command(p.cfg.Command[0], p.cfg.Command[1:]...)
	// The geometry library then takes its memory from an allocator made for many small
	// pieces: rebuilding takes an eighth less time.
	cmd.Env = append([]string{"LC_ALL=C", "GOMAXPROCS=2", "MMGT_OPT=2"}, p.cfg.Env...)
	cmd.Dir = "/"
	cmd.SysProcAttr = attr
	c := &process{cmd: cmd, stderr: &tail{}}
	cmd.Stderr = c.stderr
	var err error
	if c.in, err = cmd.StdinPipe(); err != nil {
		return nil, err
	}
	if c.out, err = cmd.StdoutPipe(); err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("the kernel process cannot be started: %w", err)
	}
	return c, nil
}

func (c *process) stop() {
	_ = c.in.Close()
	_ = c.cmd.Process.Kill() // it may be gone already
	_ = c.cmd.Wait()
}

// Do carries out a task in a child. The error is a *task.Error, or that of the
// context when it was cancelled. A task on a model of which a child has died is done once more
// with care, so that the one step fails and not the whole. The parts of an assembly are checked by as many children as
// there are, and not again where their reports are known.
func (p *Pool) Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error) {
	if req.Kind != task.Check {
		return p.twice(ctx, req, progress)
	}
	spread := *req
	spread.Spread = true
	raw, err := p.twice(ctx, &spread, progress)
	var first *task.FirstError
	if !errors.As(err, &first) {
		return raw, err
	}
	if spread.Reports, err = p.parts(ctx, first.Tasks, progress); err != nil {
		return nil, err
	}
	spread.Spread = false
	again := false // what it told of before it came to the parts is told already
	return p.twice(ctx, &spread, func(r task.Progress) {
		if again = again || r.Stage == checkingParts; again && progress != nil {
			progress(r)
		}
	})
}

// twice carries out a task in a child, and once more with care where the child dies of a model.
func (p *Pool) twice(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error) {
	raw, err := p.once(ctx, req, progress)
	var te *task.Error
	if !errors.As(err, &te) || te.Kind != task.Crashed || !req.Modelled() {
		return raw, err
	}
	careful := *req
	careful.Careful = true
	return p.once(ctx, &careful, progress)
}

// once carries out a task in a child.
func (p *Pool) once(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error) {
	owner, background := task.OwnerOf(ctx)
	t := &turn{owner: owner, background: background, key: req.Keep}
	c, err := p.take(ctx, t)
	if err != nil {
		return nil, err
	}
	defer func() { p.give(t, c) }()
	if c == nil {
		if c, err = p.start(); err != nil {
			return nil, &task.Error{Kind: task.Crashed, What: err.Error()}
		}
	}
	if req.Keep != "" {
		c.key = req.Keep
	}
	patience := time.Duration(max(req.Patience, 1))
	wall, cpu := patience*p.cfg.Wall, patience*p.cfg.CPU
	limited, cancel := context.WithTimeout(ctx, wall)
	defer cancel()
	req.CPU = int(cpu.Seconds())
	running := &running{process: c}
	spare := context.AfterFunc(limited, func() { running.kill(false) })
	defer spare()
	// A file that is damaged may keep its reader going for ever.
	stage := reading
	var late *time.Timer
	if req.Kind == task.Check {
		late = time.AfterFunc(p.cfg.Reading+time.Duration(len(req.File)>>20)*time.Second, func() {
			running.kill(true)
		})
	}
	result, err := c.do(req, func(r task.Progress) {
		if stage = r.Stage; late != nil && stage != reading {
			late.Stop()
		}
		if progress != nil {
			progress(r)
		}
	})
	if late != nil {
		late.Stop()
	}
	var te *task.Error
	var first *task.FirstError
	if answered := running.answered(); !answered || err != nil && !errors.As(err, &te) && !errors.As(err, &first) {
		// The stream broke, or the child was killed as it answered: it is dead.
		c.stop()
		state := c.cmd.ProcessState
		c = nil
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case limited.Err() != nil:
			return nil, &task.Error{Kind: task.TimedOut, What: fmt.Sprintf("the geometry took longer than %s", wall),
				Remedy: "simplify the model: very many faces or a very fine spline are the usual reason"}
		}
		if running.slow {
			return nil, &task.Error{Kind: task.Crashed, What: "this file is damaged: reading it does not come to an end",
				Remedy: "export the solid again, with repaired geometry"}
		}
		return nil, ended(state, running.stderr.last(), req.Kind, stage, cpu)
	}
	if c.tasks++; c.tasks >= p.cfg.Tasks {
		c.stop()
		c = nil
	}
	return result, err
}

// reading is the stage in which a file is read.
const reading = "reading"

// ended says why a child ended in the middle of a task. One that was killed from outside is
// nobody's fault: the task may be done again.
func ended(state *os.ProcessState, stderr []byte, kind, stage string, cpu time.Duration) *task.Error {
	ws, _ := state.Sys().(syscall.WaitStatus)
	memory := bytes.Contains(stderr, []byte("out of memory")) || bytes.Contains(stderr, []byte("bad_alloc"))
	switch {
	case ws.Exited() && ws.ExitStatus() == task.OutOfTime:
		return &task.Error{Kind: task.TimedOut, What: fmt.Sprintf("the geometry took more than %s of processor time", cpu),
			Remedy: "simplify the model: very many faces or a very fine spline are the usual reason"}
	case ws.Signaled() && (ws.Signal() == syscall.SIGKILL || ws.Signal() == syscall.SIGTERM):
		return &task.Error{Kind: task.Killed, What: "the machine stopped the geometry in the middle of it",
			Remedy: "try again; nothing is wrong with the file"}
	case memory:
		return &task.Error{Kind: task.Crashed, What: "the geometry needs more memory than is allowed",
			Remedy: "simplify the model, and export the one part alone"}
	case kind != task.Check:
		return &task.Error{Kind: task.Crashed, What: "the geometry library failed on this model",
			Remedy: "undo the last change, or give it another size"}
	case stage == reading:
		return &task.Error{Kind: task.Crashed, What: "this file is damaged: the geometry library failed when it was read",
			Remedy: "export the solid again, with repaired geometry"}
	}
	return &task.Error{Kind: task.Crashed, What: fmt.Sprintf("the geometry library failed on this part (%s)", stage),
		Remedy: "look for faces that overlap or cross themselves, and export the solid again"}
}

// Size is how many children there are at most.
func (p *Pool) Size() int { return p.cfg.Size }

// Spread carries out tasks that belong together, as many at once as there are children.
// The results are in the order of the requests. The first error ends them all.
func (p *Pool) Spread(ctx context.Context, reqs []*task.Request,
	progress func(task.Progress)) ([]json.RawMessage, error) {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	out, _ := p.each(ctx, reqs, progress, cancel) // the first error counts
	if err := context.Cause(ctx); err != nil {
		return nil, err
	}
	return out, nil
}

// Try carries out tasks of which some may fail while the others count: the errors are in the order of the requests.
func (p *Pool) Try(ctx context.Context, reqs []*task.Request,
	progress func(task.Progress)) ([]json.RawMessage, []error) {
	return p.each(ctx, reqs, progress, func(error) {})
}

// each carries out tasks, as many at once as there are children, and tells of each that failed.
func (p *Pool) each(ctx context.Context, reqs []*task.Request, progress func(task.Progress),
	failed func(error)) ([]json.RawMessage, []error) {
	out, errs := make([]json.RawMessage, len(reqs)), make([]error, len(reqs))
	done := make([]float64, len(reqs))
	var mu sync.Mutex // of done
	var wg sync.WaitGroup
	for i, req := range reqs {
		wg.Go(func() {
			raw, err := p.Do(ctx, req, func(r task.Progress) {
				mu.Lock()
				defer mu.Unlock()
				done[i] = r.Done
				sum := 0.0
				for _, d := range done {
					sum += d
				}
				r.Done = sum / float64(len(reqs))
				if progress != nil {
					progress(r)
				}
			})
			if err != nil {
				failed(err)
			}
			mu.Lock()
			defer mu.Unlock()
			out[i], errs[i], done[i] = raw, err, 1
		})
	}
	wg.Wait()
	return out, errs
}

func (t *tail) last() []byte {
	t.mu.Lock()
	defer t.mu.Unlock()
	return append([]byte(nil), t.buf...)
}

func (c *process) do(req *task.Request, progress func(task.Progress)) (json.RawMessage, error) {
	if err := task.Write(c.in, req); err != nil {
		return nil, err
	}
	for {
		var r task.Reply
		if err := task.Read(c.out, &r); err != nil {
			return nil, err
		}
		switch {
		case r.Error != nil:
			return nil, r.Error
		case r.First != nil:
			return nil, &task.FirstError{Tasks: r.First}
		case r.Progress != nil:
			if progress != nil {
				progress(*r.Progress)
			}
		default:
			return r.Result, nil
		}
	}
}

// Close stops all children. Tasks that are under way fail.
func (p *Pool) Close() {
	p.end.Do(func() {
		for range p.cfg.Size {
			if c, err := p.take(context.Background(), &turn{owner: rand.Text()}); err == nil && c != nil {
				c.stop()
			}
		}
	})
}

// Self is the command that starts this very program as a kernel child.
func Self() ([]string, error) {
	exe, err := os.Executable()
	if err != nil {
		return nil, err
	}
	return []string{exe, "kernel"}, nil
}
