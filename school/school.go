// Package school is what people do with exercises: making and issuing them, handing in, looking at
// attempts, marking and returning them. Every use case takes the person who acts and plain values, decides
// by its row whether that person may (see rules), and leaves a line in the audit trail where it changes what
// others rely on. It knows no requests and no pages; the rules of checking and marking are in core.
package school

import (
	"context"
	"encoding/json"
	"sync"

	"hammerset/kernel/task"
	"hammerset/store"
)

// Kernel carries out tasks; kernel/pool does.
type Kernel interface {
	Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error)
	// Spread carries out tasks that belong together, Size at a time.
	Spread(ctx context.Context, reqs []*task.Request, progress func(task.Progress)) ([]json.RawMessage, error)
	Try(ctx context.Context, reqs []*task.Request, progress func(task.Progress)) ([]json.RawMessage, []error)
	Size() int
}

// Person is somebody who acts.
type Person = store.User

// School has the use cases. Its methods may be called concurrently.
type School struct {
	store   *store.Store
	kernel  Kernel
	hashing chan struct{} // a place for each password that is hashed at the same time
	running running
	outside Outside
	recent  recent
	odd     sync.Map // what looks odd at an issue, by its attempts as they are: seen
	// exercises keeps the exercises of versions, by id: an *exercise.Exercise each.
	exercises sync.Map
}

// New makes the use cases on a store and a kernel.
func New(st *store.Store, kernel Kernel) *School {
	return &School{store: st, kernel: kernel, hashing: make(chan struct{}, atOnce)}
}

// Ready tells whether the school can do its work: the database answers.
func (s *School) Ready(ctx context.Context) error { return s.store.Ping(ctx) }

// ask has the kernel carry out a task, and reads its answer.
func ask[T any](ctx context.Context, s *School, req *task.Request) (T, error) {
	var out T
	raw, err := s.kernel.Do(ctx, req, nil)
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal(raw, &out)
}
