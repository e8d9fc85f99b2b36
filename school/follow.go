package school

import (
	"context"
	"errors"
	"sync"
	"time"

	"hammerset/store"
)

const (
	// lookEvery is how often the database is asked for changes.
	lookEvery = time.Second
	// lately is how far back a look reaches. It is longer than a transaction lasts.
	lately = 15 * time.Second
	// checkEvery is how often the database is asked how far a check is.
	checkEvery = 200 * time.Millisecond
)

// recent keeps the latest look at what has changed, so that the database is asked as often for
// two hundred listeners as for one.
type recent struct {
	mu   sync.Mutex
	at   time.Time
	rows []store.Change
}

func (r *recent) look(ctx context.Context, st *store.Store) ([]store.Change, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if time.Since(r.at) > lookEvery*9/10 {
		rows, err := st.ChangesWithin(ctx, lately)
		if err != nil {
			return nil, err
		}
		r.at, r.rows = time.Now(), rows
	}
	return r.rows, nil
}

// FollowChanges tells, until the context ends or tell gives an error, at every look whether something in
// the lists of a person has changed since the one before. What it was, the lists say.
func (s *School) FollowChanges(ctx context.Context, by Person, tell func(changed bool) error) error {
	known := map[store.Change]bool{}
	var classes map[int64]bool // whether the person has to do with all students of the class
	for {
		rows, err := s.recent.look(ctx, s.store)
		if err != nil {
			return err
		}
		now, changed := map[store.Change]bool{}, false
		for _, row := range rows {
			now[row] = true
			if known[row] {
				continue
			}
			if classes == nil || row.Student == by.ID { // classes are entered on the way
				if classes, err = s.classesOf(ctx, by); err != nil {
					return err
				}
			}
			staff, of := classes[row.Class]
			changed = changed || of && (staff || row.Student == 0 || row.Student == by.ID)
		}
		known = now
		if err := tell(changed); err != nil {
			return err
		}
		if err := wait(ctx, lookEvery); err != nil {
			return err
		}
	}
}

// classesOf gives the classes whose lists a person sees, and whether these are those of all students.
func (s *School) classesOf(ctx context.Context, by Person) (map[int64]bool, error) {
	list, err := s.store.Classes(ctx, by)
	out := map[int64]bool{}
	for _, c := range list {
		out[c.ID] = by.Administrator || c.Role != nil && *c.Role != store.Student
	}
	return out, err
}

// Progress is how far the check of an attempt is.
type Progress struct {
	State, Stage string
	Done         float64
}

// Followed is an attempt whose check somebody may follow.
type Followed struct {
	school *School
	id     int64
}

// Follow finds an attempt whose check is to be followed.
func (s *School) Follow(ctx context.Context, by Person, id int64) (Followed, error) {
	a, _, err := s.attempt(ctx, by, ReadAttempt, id)
	return Followed{s, a.ID}, err
}

// Until tells again and again how far the check is, until it has ended.
func (f Followed) Until(ctx context.Context, tell func(Progress) error) error {
	for {
		p, err := f.Progress(ctx)
		if err != nil {
			return err
		}
		if err := tell(p); err != nil || p.State != "queued" && p.State != "checking" {
			return err
		}
		if err := wait(ctx, checkEvery); err != nil {
			return err
		}
	}
}

// Progress tells how far the check is now.
func (f Followed) Progress(ctx context.Context) (Progress, error) {
	a, err := f.school.store.Attempt(ctx, f.id)
	p := Progress{State: a.State, Stage: a.State}
	if err != nil || a.State != "queued" && a.State != "checking" {
		return p, err
	}
	j, err := f.school.store.JobOf(ctx, f.id)
	if errors.Is(err, ErrNotFound) {
		return p, nil
	}
	p.Stage, p.Done = j.Stage, j.Progress
	return p, err
}

// wait lets some time pass, if the context does not end before.
func wait(ctx context.Context, d time.Duration) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(d):
		return nil
	}
}
