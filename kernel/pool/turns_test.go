package pool

import (
	"context"
	"testing"
	"time"
)

// Ada has twelve tasks before Bram has one, and a worker has three: Bram comes next, one child
// stays for people, and whoever gives up in the queue leaves no gap.
func TestTurns(t *testing.T) {
	p := New(Config{Command: []string{"unused"}, Size: 3})
	ctx := context.Background()
	order := make(chan string, 20)
	wait := func(ctx context.Context, w *turn) {
		if _, err := p.take(ctx, w); err == nil {
			order <- w.owner
		}
	}
	ada := make([]*turn, 12)
	for i := range ada {
		ada[i] = &turn{owner: "ada"}
		go wait(ctx, ada[i])
		time.Sleep(2 * time.Millisecond)
	}
	next := func(want string) {
		t.Helper()
		select {
		case got := <-order:
			if got != want {
				t.Errorf("the turn went to %s, not %s", got, want)
			}
		case <-time.After(5 * time.Second):
			t.Fatalf("nobody had a turn; %s should", want)
		}
	}
	next("ada")
	next("ada") // two of three: never all
	bram := &turn{owner: "bram"}
	go wait(ctx, bram)
	next("bram")
	second := &turn{owner: "bram"}
	go wait(ctx, second)
	time.Sleep(5 * time.Millisecond)
	p.give(ada[0], nil)
	next("ada") // has one at work as bram has, and was served longer ago than he
	p.give(bram, nil)
	next("bram")

	q := New(Config{Command: []string{"unused"}, Size: 2})
	for range 3 {
		go func() {
			if _, err := q.take(ctx, &turn{owner: "check", background: true}); err == nil {
				order <- "check"
			}
		}()
	}
	next("check")
	person := &turn{owner: "ada"}
	if _, err := q.take(ctx, person); err != nil {
		t.Error("no child was kept for a person")
	}
	gone, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := q.take(gone, &turn{owner: "bram"}); err == nil {
		t.Error("one who gave up had a turn")
	}
}
