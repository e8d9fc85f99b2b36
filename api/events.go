package api

import (
	"context"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"hammerset/store"
)

// stream sends server-sent events.
type stream struct {
	c    *gin.Context
	last time.Time // when something was sent
}

func newStream(c *gin.Context) *stream {
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-cache")
	h.Set("X-Accel-Buffering", "no")
	return &stream{c, time.Now()}
}

func (s *stream) say(event string, data any) {
	s.c.SSEvent(event, data)
	s.c.Writer.Flush()
	s.last = time.Now()
}

// quiet sends a comment now and then while there is nothing to say, which keeps the line open
// through proxies and finds out that nobody listens any more.
func (s *stream) quiet() error {
	if time.Since(s.last) < 10*time.Second {
		return nil
	}
	_, err := s.c.Writer.WriteString(": waiting\n\n")
	s.c.Writer.Flush()
	s.last = time.Now()
	return err
}

const (
	// listened is how long lists are told of changes at a stretch; then the browser asks anew, and
	// its session is looked at.
	listened = 5 * time.Minute
	// lookEvery is how often the database is asked for changes.
	lookEvery = time.Second
	// lately is how far back a look reaches. It is longer than a transaction lasts.
	lately = 15 * time.Second
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

// FollowChanges says that something in the asker's lists has changed. What it was, the lists
// tell: nothing of it is in the events.
func (s *Server) FollowChanges(c *gin.Context, params FollowChangesParams) {
	ctx, u := c.Request.Context(), user(c)
	long := listened
	if params.Seconds != nil {
		long = min(long, time.Duration(*params.Seconds)*time.Second)
	}
	ctx, cancel := context.WithTimeout(ctx, long)
	defer cancel()
	events := newStream(c)
	c.Writer.Flush() // the browser knows that it is connected
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	known := map[store.Change]bool{}
	var classes map[int64]bool
	for {
		rows, err := s.recent.look(ctx, s.store)
		if err != nil {
			return // the browser asks anew
		}
		now, tell := map[store.Change]bool{}, false
		for _, row := range rows {
			now[row] = true
			if known[row] {
				continue
			}
			if classes == nil || row.Student == u.ID { // classes are entered on the way
				if classes, err = s.classesOf(ctx, u); err != nil {
					return
				}
			}
			tell = tell || classes[row.Class] && (staff(u) || row.Student == 0 || row.Student == u.ID)
		}
		known = now
		if tell {
			events.say("changed", "")
		} else if events.quiet() != nil {
			return
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// classesOf gives the classes whose lists a person sees.
func (s *Server) classesOf(ctx context.Context, u store.User) (map[int64]bool, error) {
	list, err := s.store.Classes(ctx, u)
	out := map[int64]bool{}
	for _, c := range list {
		out[c.ID] = true
	}
	return out, err
}
