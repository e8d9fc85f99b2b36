// Package vary finds out how an assembly bears other sizes: where a joint breaks or contradicts others, where something
// moves that did not, or stops, and where components come to collide.
package vary

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/quantity"
)

// Maker makes the parts of an assembly.
type Maker interface {
	// Shapes makes all parts at the sizes of a document, by their ids. A part that cannot be made has a broken shape.
	Shapes(ctx context.Context, d *assembly.Document) (map[string]*assembly.Shape, error)
	// Collisions tells how the components lie to one another where they stand.
	Collisions(ctx context.Context, d *assembly.Document) ([]clash.Pair, error)
}

// Kinds of what happens when a size is changed.
const (
	Broken        = "broken"        // a part cannot be made
	Lost          = "lost"          // a joint loses its feature
	Contradiction = "contradiction" // joints cannot hold together
	Flipped       = "flipped"       // a joint holds the other way round
	Mobility      = "mobility"      // there are more or fewer freedoms
	Collision     = "collision"     // components share material
)

// Found is what happens first when a size is made smaller or larger. Size says which, Now what it is, and From where it
// begins.
type Found struct {
	Size   string   `json:"size"`
	Now    string   `json:"now"`
	From   string   `json:"from"`
	Kind   string   `json:"kind"`
	What   string   `json:"what"`
	Remedy string   `json:"remedy"`
	Joints []string `json:"joints,omitempty"`
	Of     []string `json:"of,omitempty"` // the components
	// At is where it begins, in mm or radians.
	At float64 `json:"-"`
}

// Repeat is a joint that holds what others hold already. A touchy one contradicts them at another size; a harmless one
// holds at all sizes that were tried.
type Repeat struct {
	assembly.Repeat
	Touchy bool   `json:"touchy"`
	By     string `json:"by,omitempty"` // the size
}

// Varied is how an assembly bears other sizes.
type Varied struct {
	Sizes   []string `json:"sizes"` // that were varied, with their intervals
	Found   []Found  `json:"found"`
	Repeats []Repeat `json:"repeats"`
}

// steps is in how many steps a size goes to the end of its interval, and halvings how often the step in which something
// begins to happen is halved: to about a hundredth of the way.
const (
	steps    = 2
	halvings = 5
)

// Varier varies the sizes of an assembly.
type Varier struct {
	Maker Maker
	// Collisions tells that collisions are looked for as well.
	Collisions bool

	doc      *assembly.Document // where all joints hold
	freedom  int
	repeats  []assembly.Repeat // of what is held twice
	collided map[string]bool   // pairs that collide as it is
}

// Error is an assembly whose sizes cannot be varied.
type Error struct{ What, Remedy string }

func (e *Error) Error() string { return e.What + "; " + e.Remedy }

// Run varies every driving size of an assembly over its interval, one at a time, and finds what happens first on each
// side. each is told before a size is varied how much is done.
func (v *Varier) Run(ctx context.Context, d *assembly.Document, each func(done float64)) (*Varied, error) {
	list, err := v.Begin(ctx, d)
	if err != nil {
		return nil, err
	}
	out := &Varied{Sizes: []string{}, Found: []Found{}, Repeats: []Repeat{}}
	for _, r := range v.repeats {
		out.Repeats = append(out.Repeats, Repeat{Repeat: r})
	}
	for i := range list {
		s := &list[i]
		each(float64(i) / float64(len(list)))
		out.Sizes = append(out.Sizes, fmt.Sprintf("%s, %s … %s", s.Title, s.Shown(s.Ends[0]), s.Shown(s.Ends[1])))
		for _, end := range s.Ends {
			found, err := v.Towards(ctx, s, end)
			if err != nil {
				return nil, err
			}
			if found != nil {
				out.add(found)
			}
		}
	}
	return out, nil
}

// Begin sees how an assembly is as it stands, and gives the sizes that drive it.
func (v *Varier) Begin(ctx context.Context, d *assembly.Document) ([]Size, error) {
	made, err := v.Maker.Shapes(ctx, d)
	if err != nil {
		return nil, err
	}
	list, err := driving(d, made)
	if err != nil {
		return nil, err
	}
	m, err := assembly.New(d, made, nil)
	if err != nil {
		return nil, err
	}
	if lost := m.Lost(); len(lost) > 0 {
		return nil, &Error{lost[0].What, lost[0].Remedy + ", before sizes are varied"}
	}
	if !m.Solve().Holds {
		return nil, &Error{"the joints cannot hold together as it is", "put this right before sizes are varied"}
	}
	v.doc = m.Placed()
	mobility := m.Mobility()
	v.freedom, v.repeats = mobility.Freedom, mobility.Repeats
	if v.Collisions {
		v.collided = map[string]bool{}
		pairs, err := v.Maker.Collisions(ctx, v.doc)
		if err != nil {
			return nil, err
		}
		for _, p := range pairs {
			v.collided[p.A+" "+p.B] = p.Kind == clash.Collision
		}
	}
	return list, nil
}

// add takes in what was found. Of joints that contradict one another and hold something twice as it is, those are
// touchy.
func (out *Varied) add(f *Found) {
	out.Found = append(out.Found, *f)
	if f.Kind != Contradiction {
		return
	}
	for i := range out.Repeats {
		r := &out.Repeats[i]
		if !r.Touchy && slices.ContainsFunc(append([]string{r.Joint}, r.With...), func(j string) bool {
			return slices.Contains(f.Joints, j)
		}) {
			r.Touchy, r.By = true, f.Size
		}
	}
}

// Towards varies a size from where it is to a value, in steps that each begin where the last one ended, and finds where
// something begins to happen; nil where nothing does.
func (v *Varier) Towards(ctx context.Context, s *Size, end float64) (*Found, error) {
	at, good := v.doc, s.Now.Value
	for k := 1; k <= steps; k++ {
		to := s.Between(s.Now.Value, end, float64(k)/steps)
		if to == good {
			continue
		}
		found, next, err := v.look(ctx, s, at, to)
		if err != nil {
			return nil, err
		}
		if found == nil {
			at, good = next, to
			continue
		}
		for range halvings {
			mid := s.Between(good, to, 0.5)
			if mid == good || mid == to {
				break
			}
			closer, next, err := v.look(ctx, s, at, mid)
			if err != nil {
				return nil, err
			}
			if closer != nil {
				found, to = closer, mid
			} else {
				at, good = next, mid
			}
		}
		return found, nil
	}
	return nil, nil
}

// look makes the assembly with a size at a value, beginning from where it stood at another one, and says what happens;
// else where it stands then.
func (v *Varier) look(ctx context.Context, s *Size, from *assembly.Document, value float64) (*Found,
	*assembly.Document, error) {
	if err := ctx.Err(); err != nil {
		return nil, nil, err
	}
	d := s.In(from, value)
	f := &Found{Size: s.Title, Now: s.Shown(s.Now.Value), From: s.Shown(value), At: value}
	say := func(kind, what, remedy string, joints ...string) (*Found, *assembly.Document, error) {
		f.Kind, f.What, f.Remedy, f.Joints = kind, what, remedy, joints
		return f, nil, nil
	}
	made, err := v.Maker.Shapes(ctx, d)
	if err != nil {
		return nil, nil, err
	}
	for _, p := range d.Parts {
		if b := made[p.ID].Broken; b != nil {
			return say(Broken, fmt.Sprintf("the part %s cannot be made: %s", p.Name, b.What), b.Remedy)
		}
	}
	m, err := assembly.New(d, made, nil)
	if err != nil {
		return say(Lost, err.Error(), "write the formulas so that they hold for this size")
	}
	if lost := m.Lost(); len(lost) > 0 {
		return say(Lost, lost[0].What, lost[0].Remedy, lost[0].Joint)
	}
	switch solved := m.Solve(); {
	case !solved.Holds:
		return say(Contradiction, "these joints cannot hold together any more: "+titles(d, solved.Contradiction),
			loosen(solved.Contradiction), solved.Contradiction...)
	case len(solved.Flipped) > 0:
		return say(Flipped, "these joints hold the other way round: "+titles(d, solved.Flipped),
			"keep the size where they hold as they are", solved.Flipped...)
	}
	if now := m.Mobility().Freedom; now != v.freedom {
		return say(Mobility, fmt.Sprintf("there are %s in place of %d", quantity.Count(now, "freedom", "freedoms"),
			v.freedom),
			"find out what holds it at one size alone")
	}
	placed := m.Placed()
	if v.Collisions {
		pairs, err := v.Maker.Collisions(ctx, placed)
		if err != nil {
			return nil, nil, err
		}
		for _, p := range pairs {
			if p.Kind == clash.Collision && !v.collided[p.A+" "+p.B] {
				f.Of = []string{p.A, p.B}
				return say(Collision, p.What, "tie the sizes of both by a formula, or leave more room")
			}
		}
	}
	return nil, placed, nil
}

// loosen says what to do about joints that contradict one another.
func loosen(joints []string) string {
	if len(joints) < 2 {
		return "tie the sizes that it needs by a formula of the assembly"
	}
	return "loosen one of them (a pin in a slot in place of a pin in a hole), or tie the sizes by a formula of the " +
		"assembly"
}

func titles(d *assembly.Document, ids []string) string {
	var out []string
	for _, id := range ids {
		if j, ok := d.Joint(id); ok {
			out = append(out, d.TitleOf(j))
		} else {
			out = append(out, id)
		}
	}
	return strings.Join(out, ", ")
}
