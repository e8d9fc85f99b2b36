package api

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"hammerset/school"
)

// listened is how long lists are told of changes at a stretch; then the browser asks anew, and
// its session is looked at.
const listened = 5 * time.Minute

// quietFor is after how long without anything to say a comment is sent, which keeps the line open
// through proxies and finds out that nobody listens any more.
const quietFor = 10 * time.Second

// stream sends server-sent events.
type stream struct {
	w    io.Writer
	last time.Time // when something was sent
}

// streaming gives the events that f sends, until it returns.
func streaming(f func(*stream) error) io.ReadCloser {
	r, w := io.Pipe()
	go func() {
		s := &stream{w: w}
		err := s.comment("listening") // the browser knows that it is connected
		if err == nil {
			err = f(s)
		}
		_ = err // the browser asks anew
		w.Close()
	}()
	return r
}

func (s *stream) comment(words string) error {
	s.last = time.Now()
	_, err := fmt.Fprintf(s.w, ": %s\n\n", words)
	return err
}

func (s *stream) say(event string, data any) error {
	text, err := json.Marshal(data)
	if err != nil {
		return err
	}
	s.last = time.Now()
	_, err = fmt.Fprintf(s.w, "event:%s\ndata:%s\n\n", event, text)
	return err
}

// quiet sends a comment now and then while there is nothing to say.
func (s *stream) quiet() error {
	if time.Since(s.last) < quietFor {
		return nil
	}
	return s.comment("waiting")
}

// FollowChanges says that something in the asker's lists has changed. What it was, the lists
// tell: nothing of it is in the events.
func (s *Server) FollowChanges(ctx context.Context, in FollowChangesRequestObject) (FollowChangesResponseObject,
	error) {
	ctx, by := asking(ctx)
	long := listened
	if in.Params.Seconds != nil {
		long = min(long, time.Duration(*in.Params.Seconds)*time.Second)
	}
	return FollowChanges200TexteventStreamResponse{Body: streaming(func(events *stream) error {
		ctx, cancel := context.WithTimeout(ctx, long)
		defer cancel()
		return s.school.FollowChanges(ctx, by, func(changed bool) error {
			if changed {
				return events.say("changed", "")
			}
			return events.quiet()
		})
	})}, nil
}

// FollowAttempt streams the progress of a check until it has ended.
func (s *Server) FollowAttempt(ctx context.Context, in FollowAttemptRequestObject) (FollowAttemptResponseObject,
	error) {
	ctx, by := asking(ctx)
	followed, err := s.school.Follow(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return FollowAttempt200TexteventStreamResponse{Body: streaming(func(events *stream) error {
		var told school.Progress
		return followed.Until(ctx, func(p school.Progress) error {
			if p == told {
				return events.quiet()
			}
			told = p
			return events.say("progress", Progress{State: AttemptState(p.State), Stage: p.Stage, Done: p.Done})
		})
	})}, nil
}
