// Package clash tells how components lie to one another at one pose: free, touching, or in one another, by how much
// and how deep. It asks a kernel only where boxes and meshes do not settle it.
package clash

import (
	"context"
	"fmt"
	"math"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Placed is a component where it stands.
type Placed struct {
	ID    string
	Title string
	Pose  rigid.Pose
	Shape *assembly.Shape
	Solid solid.Shape
	Soft  bool // gives way, and is left out
}

// Kinds of what two components can be to one another. What is free is not told.
const (
	Contact   = "contact"   // they touch, or share less than shows
	PressFit  = "press fit" // a shaft is larger than its bore, as a fit says that it may be
	Thread    = "thread"    // a male thread lies in a hole of its core size
	Collision = "collision" // they share material
	Ask       = "ask"       // it could not be worked out
)

// Pair is what two components are to one another. Volume is what they share in mm³, and Depth about how far they are
// in one another in mm.
type Pair struct {
	A      string    `json:"a"`
	B      string    `json:"b"`
	Kind   string    `json:"kind"`
	Volume float64   `json:"volume,omitempty"`
	Depth  float64   `json:"depth,omitempty"`
	At     solid.Vec `json:"at"` // the middle of what they share
	What   string    `json:"what"`
	Remedy string    `json:"remedy,omitempty"`
	// Fits are bores and shafts about one axis.
	Fits []Fit `json:"fits,omitempty"`
}

// Fit is a shaft in a bore, about one axis. Clearance is the difference of their diameters in mm, negative where the
// shaft is larger.
type Fit struct {
	Bore      string  `json:"bore"`
	Shaft     string  `json:"shaft"`
	Diameter  float64 `json:"diameter"` // of the bore
	Clearance float64 `json:"clearance"`

	reach  float64   // mm: how far the shaft reaches into the bore
	thread [2]string // what of the two is threaded: bore, shaft
}

// Looker looks at components.
type Looker struct {
	Kernel solid.Kernel
	// Stated are fits that joints state (H7/p6), by the two components in either order.
	Stated map[[2]string]string
	// Known tells of two components that nobody asks what they are to one another; nothing asks of all.
	Known func(a, b *Placed) bool
	// Memo has what was found before; nil for none.
	Memo *Memo
	// Booleans counts how often the kernel was asked for a boolean.
	Booleans int
}

// Bounds of what counts.
const (
	fuzzy     = 1e-4 // mm: what coincides may lie so far apart
	believed  = 1e-6 // by so much the volumes may fail to add up
	thin      = 0.01 // mm: what is shared and thinner than that is contact
	oneAxis   = 1e-6 // radians, and with the size of a part mm: axes that are one
	sameRound = 1e-3 // mm: diameters that are the same
)

// All looks at all pairs of components whose boxes meet, and calls each before each pair with the share that is done.
func (l *Looker) All(ctx context.Context, list []Placed, each func(done float64)) ([]Pair, error) {
	meshes := make([]*triangles, len(list))
	for i, c := range list {
		meshes[i] = placed(c.Shape.Mesh, c.Pose.Apply)
	}
	var out []Pair
	for i := range list {
		each(float64(i) / float64(len(list)))
		for j := i + 1; j < len(list); j++ {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			a, b := &list[i], &list[j]
			if a.Soft || b.Soft || l.apart(a, b, meshes[i], meshes[j]) || l.Known != nil && l.Known(a, b) {
				continue
			}
			if parted(a, b, meshes[i], meshes[j]) {
				out = append(out, *contactOf(a, b))
				continue
			}
			p, known := (*Pair)(nil), false
			if l.Memo != nil {
				p, known = l.Memo.find(l, a, b)
			}
			if !known {
				p = l.pair(a, b)
			}
			if !known && l.Memo != nil {
				l.Memo.keep(l, a, b, p)
			}
			if p != nil {
				out = append(out, *p)
			}
		}
	}
	return out, nil
}

// apart tells whether two components are surely free of one another: their meshes stay apart by more than they lie off
// the solids, and neither is inside the other.
func (l *Looker) apart(a, b *Placed, x, y *triangles) bool {
	slack := a.Shape.Deflection + b.Shape.Deflection + fuzzy
	if !meet(x.nodes[0].box, y.nodes[0].box, slack) {
		return true
	}
	if x.near(y, slack) {
		return false
	}
	return !x.holds(y.at[0].p[0]) && !y.holds(x.at[0].p[0])
}

// contactOf is two components that only touch.
func contactOf(a, b *Placed) *Pair {
	return &Pair{A: a.ID, B: b.ID, Kind: Contact, What: fmt.Sprintf("%s and %s touch", a.Title, b.Title), Fits: fits(a, b)}
}

// pair asks the kernel what two components share. What it says is believed only where the volumes add up: the two
// volumes are that of both as one and that of what they share.
func (l *Looker) pair(a, b *Placed) *Pair {
	p := &Pair{A: a.ID, B: b.ID, Fits: fits(a, b)}
	shared, both, err := l.believable(a, b)
	if err != nil { // faces that touch along a line are what a kernel fails at: a hair beside it they do not
		beside := *b
		beside.Pose.Shift = beside.Pose.Shift.Add(aside)
		if s, u, again := l.believable(a, &beside); again == nil {
			shared, both, err = s, u, nil
		}
	}
	if err != nil {
		p.Kind = Ask
		p.What = fmt.Sprintf("whether %s and %s collide could not be worked out: %v", a.Title, b.Title, err)
		p.Remedy = "look at the two along a section"
		return p
	}
	p.Volume, p.At = shared.Volume, shared.Centroid
	if shared.Area > 0 {
		p.Depth = depth(shared)
	}
	if shared.Volume <= 0 || 2*shared.Volume/shared.Area <= thin {
		// As one they have less surface than by themselves where faces lie on faces.
		hidden := a.Shape.Props.Area + b.Shape.Props.Area - both.Area
		if hidden > believed*both.Area || l.close(a, b) {
			return contactOf(a, b)
		}
		return nil
	}
	if l.tight(p, a, b) {
		return p
	}
	p.Kind = Collision
	p.What = fmt.Sprintf("%s and %s are in one another: they share %.4g mm³, about %.3g mm deep", a.Title, b.Title,
		p.Volume, p.Depth)
	p.Remedy = "move one of them, or put the size right that brings them together"
	for _, f := range p.Fits {
		if f.Clearance < -sameRound {
			p.What += fmt.Sprintf("; the shaft (⌀%.4g) is %.3g mm larger than the bore (⌀%.4g)", f.Diameter-f.Clearance,
				-f.Clearance,
				f.Diameter)
			p.Remedy = "make the shaft smaller or the bore larger"
		}
	}
	return p
}

// aside is by how much a component is shifted to be looked at again, in mm: far less than what counts as contact, and
// along nothing that is likely to be a direction of it.
var aside = solid.Vec{1.3e-4, -1.9e-4, 1.1e-4}

// believable is what two components share, and both as one, where the volumes add up.
func (l *Looker) believable(a, b *Placed) (shared, both solid.Props, err error) {
	l.Booleans++
	if shared, both, err = l.overlap(a, b); err != nil {
		return shared, both, err
	}
	if va, vb := a.Shape.Props.Volume,
		b.Shape.Props.Volume; math.Abs(va+vb-both.Volume-shared.Volume) > believed*(va+vb) {
		err = fmt.Errorf("the volumes do not add up: %.6g and %.6g are not %.6g and %.6g mm³", va, vb, both.Volume,
			shared.Volume)
	}
	return shared, both, err
}

// overlap gives the figures of what two components share, and of both as one.
func (l *Looker) overlap(a, b *Placed) (shared, both solid.Props, err error) {
	k := l.Kernel
	x, _, err := k.Transform(a.Solid, a.Pose.Transform())
	if err != nil {
		return shared, both, err
	}
	y, _, err := k.Transform(b.Solid, b.Pose.Transform())
	if err != nil {
		return shared, both, err
	}
	s, u, err := k.Overlap(x, y, fuzzy)
	if err != nil {
		return shared, both, err
	}
	if s.Solids() > 0 {
		if shared, err = k.Props(s); err != nil {
			return shared, both, err
		}
	}
	if err := s.Err(); err != nil {
		return shared, both, err
	}
	both, err = k.Props(u)
	return shared, both, err
}

// depth is about how far two solids that share a piece are in one another: how thick a plate of the same volume and
// inertia is. The moments of a box of sides a, b, c are m/12 (b² + c²) and so on, the largest about its least side.
func depth(p solid.Props) float64 {
	_, m := p.Principal()
	return math.Sqrt(math.Max(0, 12*((m[0]+m[1]+m[2])/2-m[0])/p.Volume))
}

// close tells whether two components that share nothing lie on one another.
func (l *Looker) close(a, b *Placed) bool {
	k := l.Kernel
	x, _, err := k.Transform(a.Solid, a.Pose.Transform())
	if err != nil {
		return false
	}
	y, _, err := k.Transform(b.Solid, b.Pose.Transform())
	if err != nil {
		return false
	}
	d, _, _, err := k.Distance(solid.Pick{Shape: x, Kind: solid.PickWhole}, solid.Pick{Shape: y, Kind: solid.PickWhole})
	return err == nil && d <= fuzzy
}

// fits lists the bores of each component with shafts of the other about the same axis that reach into them.
func fits(a, b *Placed) []Fit {
	var out []Fit
	for _, pair := range [][2]*Placed{{a, b}, {b, a}} {
		for i := range pair[0].Shape.Features {
			bore := &pair[0].Shape.Features[i]
			if bore.Form != assembly.Cylinder || !bore.Hollow {
				continue
			}
			at, axis := pair[0].Pose.Apply(bore.At), pair[0].Pose.Rotate(bore.Axis)
			for j := range pair[1].Shape.Features {
				shaft := &pair[1].Shape.Features[j]
				if shaft.Form != assembly.Cylinder || shaft.Hollow || math.Abs(shaft.Radius-bore.Radius) > 0.25*bore.Radius {
					continue
				}
				there := pair[1].Pose.Apply(shaft.At)
				along := math.Abs(there.Sub(at).Dot(axis))
				if pair[1].Pose.Rotate(shaft.Axis).Parallel(axis, oneAxis) && solid.FromAxis(there, at,
					axis).Norm() < oneAxis*1e3 &&
					along < (bore.Length+shaft.Length)/2 {
					out = append(out, Fit{Bore: pair[0].ID + "#" + bore.Name, Shaft: pair[1].ID + "#" + shaft.Name,
						Diameter: 2 * bore.Radius, Clearance: 2 * (bore.Radius - shaft.Radius),
						reach:  min(bore.Length, shaft.Length, (bore.Length+shaft.Length)/2-along),
						thread: [2]string{bore.Thread, shaft.Thread}})
				}
			}
		}
	}
	return out
}
