// Package pool keeps kernel child processes and gives them tasks. A child that
// crashes or takes too long is replaced; its task fails with a reason and
// nothing else is lost.
package pool

import (
	"bytes"
	"context"
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
	Tasks   int           // tasks after which a child is replaced, against slow leaks
}

// Pool is a pool of children. Its methods may be called concurrently.
type Pool struct {
	cfg  Config
	free chan struct{} // a token for each child that is idle
	mu   sync.Mutex
	idle []*process // as many as there are tokens; nil stands for a child not yet started
	once sync.Once
}

// New makes a pool; children are started when they are needed.
func New(cfg Config) *Pool {
	if cfg.Wall == 0 {
		cfg.Wall = 3 * time.Minute
	}
	if cfg.CPU == 0 {
		cfg.CPU = cfg.Wall
	}
	if cfg.Tasks == 0 {
		cfg.Tasks = 100
	}
	p := &Pool{cfg: cfg, free: make(chan struct{}, cfg.Size)}
	for range cfg.Size {
		p.give(nil)
	}
	return p
}

// take waits for an idle child: the one that kept the key, else one that keeps
// nothing, else any.
func (p *Pool) take(ctx context.Context, key string) (*process, error) {
	select {
	case <-p.free:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	best, rank := 0, -1
	for i, c := range p.idle {
		r := 0 // has another model's states
		switch {
		case key != "" && c != nil && c.key == key:
			r = 3
		case c != nil && c.key == "":
			r = 2
		case c == nil:
			r = 1
		}
		if r > rank {
			best, rank = i, r
		}
	}
	c := p.idle[best]
	p.idle = append(p.idle[:best], p.idle[best+1:]...)
	return c, nil
}

func (p *Pool) give(c *process) {
	p.mu.Lock()
	p.idle = append(p.idle, c)
	p.mu.Unlock()
	p.free <- struct{}{}
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
// context when it was cancelled.
func (p *Pool) Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error) {
	c, err := p.take(ctx, req.Keep)
	if err != nil {
		return nil, err
	}
	defer func() { p.give(c) }()
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
	done := make(chan struct{})
	stopped := make(chan struct{})
	running := c
	go func() {
		defer close(stopped)
		select {
		case <-limited.Done():
			_ = running.cmd.Process.Kill() // reading below then ends
		case <-done:
		}
	}()
	result, err := c.do(req, progress)
	close(done)
	<-stopped
	var te *task.Error
	if err != nil && !errors.As(err, &te) {
		// The stream broke: the child is dead or was killed.
		c.stop()
		state := c.cmd.ProcessState
		c = nil
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case limited.Err() != nil:
			return nil, &task.Error{Kind: task.TimedOut, What: fmt.Sprintf("the geometry took longer than %s", wall), Remedy: "simplify the model: very many faces or a very fine spline are the usual reason"}
		}
		what := "the geometry library failed on this file"
		if ws, ok := state.Sys().(syscall.WaitStatus); ok && ws.Signaled() && ws.Signal() == syscall.SIGXCPU {
			return nil, &task.Error{Kind: task.TimedOut, What: fmt.Sprintf("the geometry took more than %s of processor time", cpu), Remedy: "simplify the model: very many faces or a very fine spline are the usual reason"}
		}
		if bytes.Contains(running.stderr.last(), []byte("out of memory")) || bytes.Contains(running.stderr.last(), []byte("bad_alloc")) {
			what = "the geometry needs more memory than is allowed"
		}
		return nil, &task.Error{Kind: task.Crashed, What: what, Remedy: "export the solid again, with repaired geometry"}
	}
	c.tasks++
	if c.tasks >= p.cfg.Tasks {
		c.stop()
		c = nil
	}
	if err != nil {
		return nil, te
	}
	return result, nil
}

// Size is how many children there are at most.
func (p *Pool) Size() int { return p.cfg.Size }

// Spread carries out tasks that belong together, as many at once as there are children.
// The results are in the order of the requests. The first error ends them all.
func (p *Pool) Spread(ctx context.Context, reqs []*task.Request, progress func(task.Progress)) ([]json.RawMessage, error) {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	out := make([]json.RawMessage, len(reqs))
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
				cancel(err) // the first counts
			}
			mu.Lock()
			defer mu.Unlock()
			out[i], done[i] = raw, 1
		})
	}
	wg.Wait()
	if err := context.Cause(ctx); err != nil {
		return nil, err
	}
	return out, nil
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
	p.once.Do(func() {
		for range p.cfg.Size {
			if c, err := p.take(context.Background(), ""); err == nil && c != nil {
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
