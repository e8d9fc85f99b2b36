// Package work runs the checks that are queued: it takes jobs under a lease,
// has a kernel child carry them out and keeps the outcome.
package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"sync"
	"time"

	"hammerset/kernel/task"
	"hammerset/school"
	"hammerset/store"
)

// Kernel carries out tasks; kernel/pool does.
type Kernel interface {
	Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error)
}

// Worker takes jobs one after another.
type Worker struct {
	Store  *store.Store // of the jobs
	School *school.School
	Kernel Kernel
	Log    *slog.Logger
	making sync.Mutex
	left   []int64 // versions whose atlas cannot be made; under the mutex
}

// idle is how long a worker waits when there is nothing to do.
const idle = 300 * time.Millisecond

// Run starts n workers and returns when the context has ended and all have
// stopped. A check that is under way is given back.
func (w *Worker) Run(ctx context.Context, n int) {
	host, err := os.Hostname()
	if err != nil {
		host = "host"
	}
	var wg sync.WaitGroup
	wg.Go(func() { w.tell(ctx) })
	for i := range n {
		wg.Go(func() { w.loop(ctx, fmt.Sprintf("%s-%d-%d", host, os.Getpid(), i)) })
	}
	wg.Wait()
}

func (w *Worker) loop(ctx context.Context, name string) {
	for ctx.Err() == nil {
		job, err := w.Store.Claim(ctx, name)
		if err == nil && job != nil {
			err = w.carryOut(ctx, job)
		}
		if err != nil && ctx.Err() == nil {
			w.Log.Error("worker", "name", name, "error", err)
		}
		if job == nil {
			w.ahead(ctx)
			select {
			case <-ctx.Done():
			case <-time.After(idle):
			}
		}
	}
}

// toldEvery is how often it is looked what people are to be told.
const toldEvery = 5 * time.Second

// tell looks what people are to be told, and sends mail. Of several processes each mail goes out from one.
func (w *Worker) tell(ctx context.Context) {
	for ctx.Err() == nil {
		err := w.School.Tell(ctx, time.Now())
		for sent := true; sent && err == nil; {
			sent, err = w.School.SendMail(ctx)
		}
		if err != nil && ctx.Err() == nil {
			w.Log.Error("telling people", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(toldEvery):
		}
	}
}

// ahead makes, while nothing else is to be done, the mistake atlas of an exercise that
// was issued without one. What cannot be made is told once and left to the check.
func (w *Worker) ahead(ctx context.Context) {
	if !w.making.TryLock() {
		return // another worker of this process is at it
	}
	defer w.making.Unlock()
	ctx = task.WithOwner(ctx, "mistake atlases", true)
	v, reference, err := w.School.NextAtlas(ctx, w.left)
	if errors.Is(err, school.ErrNotFound) || ctx.Err() != nil {
		return
	}
	if err == nil {
		var made []byte
		made, err = w.School.MakeAtlas(ctx, v, reference, func(req *task.Request) (json.RawMessage, error) {
			return w.Kernel.Do(ctx, req, nil)
		})
		if made != nil && err == nil {
			return
		}
	}
	if ctx.Err() == nil {
		w.left = append(w.left, v.ID)
		if err != nil {
			w.Log.Error("the mistake atlas cannot be made", "exercise", v.ExerciseID, "version", v.Number, "error", err)
		}
	}
}

func (w *Worker) carryOut(ctx context.Context, job *store.Job) error {
	err := w.check(ctx, job)
	var te *task.Error
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrLost):
		return nil // another worker has it
	case errors.As(err, &te) && (te.Kind == task.Unusable || te.Kind == task.Crashed || te.Kind == task.TimedOut):
		// The file is at fault, and will be the next time too.
		return w.Store.Unusable(ctx, job, te.What, te.Remedy)
	}
	// Given back even when this worker is being stopped.
	keep, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	if ctx.Err() != nil {
		job.Tries = 0 // being stopped is not the file's fault
		return w.Store.Fail(keep, job, "the worker was stopped")
	}
	return w.Store.Fail(keep, job, err.Error())
}

func (w *Worker) check(ctx context.Context, job *store.Job) error {
	c, err := w.School.CheckOf(ctx, job)
	if err != nil {
		return err
	}
	ctx = task.WithOwner(ctx, fmt.Sprintf("attempts of %d", c.Attempt.Student), true)
	return w.School.Carry(ctx, job, c, func(req *task.Request) (json.RawMessage, error) {
		return w.withLease(ctx, job, req)
	})
}

// withLease runs a task while it keeps the lease of the job and notes progress.
func (w *Worker) withLease(ctx context.Context, job *store.Job, req *task.Request) (json.RawMessage, error) {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	var mu sync.Mutex
	now := task.Progress{Stage: "reading"}
	done := make(chan struct{})
	var wg sync.WaitGroup
	wg.Go(func() {
		tick := time.NewTicker(200 * time.Millisecond)
		defer tick.Stop()
		var told task.Progress
		last := time.Now()
		for {
			select {
			case <-done:
				return
			case <-tick.C:
			}
			mu.Lock()
			p := now
			mu.Unlock()
			if p == told && time.Since(last) < store.Lease/4 {
				continue
			}
			told, last = p, time.Now()
			if err := w.Store.Beat(ctx, job, p.Stage, p.Done); errors.Is(err, store.ErrLost) {
				cancel(err)
				return
			}
		}
	})
	raw, err := w.Kernel.Do(ctx, req, func(p task.Progress) {
		mu.Lock()
		now = p
		mu.Unlock()
	})
	close(done)
	wg.Wait()
	if cause := context.Cause(ctx); errors.Is(cause, store.ErrLost) {
		return nil, cause
	}
	return raw, err
}
