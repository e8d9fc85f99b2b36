package school

import (
	"sync"

	"hammerset/kernel/task"
)

// Running says how far a task is that runs now.
type Running struct {
	Running bool
	Stage   string
	Done    float64 // from 0 to 1
}

// running holds the progress of tasks that run now, by what they run on.
type running struct {
	mu   sync.Mutex
	list map[int64]Running
}

// begin notes that a task runs; progress notes how far it is, and done that it has ended.
func (r *running) begin(id int64) (progress func(task.Progress), done func()) {
	r.set(id, Running{Running: true})
	progress = func(p task.Progress) { r.set(id, Running{Running: true, Stage: p.Stage, Done: p.Done}) }
	return progress, func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(r.list, id)
	}
}

func (r *running) set(id int64, p Running) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.list == nil {
		r.list = map[int64]Running{}
	}
	r.list[id] = p
}

func (r *running) get(id int64) Running {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.list[id]
}
