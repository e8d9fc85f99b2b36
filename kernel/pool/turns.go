package pool

import (
	"context"
	"slices"
)

// turn is somebody's wish for a child.
type turn struct {
	owner      string // who waits: nobody holds up others; empty where there is nobody else
	background bool   // no person waits for it: one child is kept for those who do
	key        string // of the model that the child should have had last
	child      chan *process
}

// take waits for a child. Whoever has the fewest children at work comes first, and of those
// the one who was served longest ago; tasks in the background leave one child for people who
// wait, and one owner never has all.
func (p *Pool) take(ctx context.Context, t *turn) (*process, error) {
	t.child = make(chan *process, 1)
	p.mu.Lock()
	p.waiting = append(p.waiting, t)
	p.deal()
	p.mu.Unlock()
	select {
	case c := <-t.child:
		return c, nil
	case <-ctx.Done():
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if i := slices.Index(p.waiting, t); i >= 0 {
		p.waiting = slices.Delete(p.waiting, i, i+1)
		return nil, ctx.Err()
	}
	p.back(t, <-t.child) // it was dealt meanwhile
	return nil, ctx.Err()
}

// give puts a child back; nil stands for one that is to be started anew.
func (p *Pool) give(t *turn, c *process) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.back(t, c)
}

func (p *Pool) back(t *turn, c *process) {
	p.idle = append(p.idle, c)
	if p.running[t.owner]--; p.running[t.owner] == 0 {
		delete(p.running, t.owner)
	}
	if t.background {
		p.behind--
	}
	p.deal()
}

// deal gives idle children to those who wait, as far as there are both. The pool is locked.
func (p *Pool) deal() {
	for len(p.idle) > 0 {
		best := -1
		for i, t := range p.waiting {
			if p.mayRun(t) && (best < 0 || p.before(t, p.waiting[best])) {
				best = i
			}
		}
		if best < 0 {
			return
		}
		t := p.waiting[best]
		p.waiting = slices.Delete(p.waiting, best, best+1)
		p.running[t.owner]++
		p.count++
		p.served[t.owner] = p.count
		if t.background {
			p.behind++
		}
		t.child <- p.choose(t.key)
	}
	if len(p.waiting) == 0 && len(p.running) == 0 {
		clear(p.served) // nobody to be fair to
	}
}

func (p *Pool) mayRun(t *turn) bool {
	most := max(1, p.cfg.Size-1)
	return (t.owner == "" || p.running[t.owner] < most) && (!t.background || p.behind < most)
}

// before tells whether a wish goes before another that came earlier.
func (p *Pool) before(a, b *turn) bool {
	if a.background != b.background {
		return b.background
	}
	if n, m := p.running[a.owner], p.running[b.owner]; n != m {
		return n < m
	}
	return p.served[a.owner] < p.served[b.owner]
}

// choose takes an idle child: the one that kept the key, else one that keeps nothing, else any.
func (p *Pool) choose(key string) *process {
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
	p.idle = slices.Delete(p.idle, best, best+1)
	return c
}
