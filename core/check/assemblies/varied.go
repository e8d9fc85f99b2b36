package assemblies

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/assembly/vary"
	"hammerset/core/report"
)

// Bounds of how sizes are compared.
const (
	sameSize = 1e-6 // by which, as a share, two values are one
	earlier  = 0.05 // of the way to the end by which something must happen earlier than in the reference
)

// Bears is how far the sizes of a reference can be varied, by their titles: the share of the way from the value to the
// least and to the most of its interval up to which nothing happens, 1 where nothing does at all.
type Bears map[string][2]float64

// Varied varies the sizes of a reference, which takes as long as many checks.
func (r Reference) Varied(ctx context.Context, progress func(float64)) (Bears, error) {
	v := &vary.Varier{Maker: r.Maker, Collisions: true}
	list, err := v.Begin(ctx, r.Document)
	if err != nil {
		return nil, fmt.Errorf("the reference: %w", err)
	}
	out := Bears{}
	for i := range list {
		progress(float64(i) / float64(len(list)))
		s := &list[i]
		far := [2]float64{1, 1}
		for k, end := range s.Ends {
			found, err := v.Towards(ctx, s, end)
			if err != nil {
				return nil, err
			}
			if found != nil {
				far[k] = share(found.At, s.Now.Value, end)
			}
		}
		out[s.Title] = far
	}
	return out, nil
}

// varied varies the sizes of an attempt that brings joints of its own as those of the reference are: nothing may happen
// to it earlier than to the reference. The base is the attempt's own document, whatever it names its sizes.
func (p *placement) varied(ctx context.Context, progress func(float64)) ([]report.Varied, error) {
	out := []report.Varied{}
	if p.Maker == nil || p.att.Maker == nil || len(p.att.mech.Document.Joints) == 0 || !p.att.holds {
		return out, nil
	}
	should, err := (&vary.Varier{Maker: p.Maker}).Begin(ctx, p.Document)
	if err != nil {
		return nil, fmt.Errorf("the reference: %w", err)
	}
	if p.known == nil {
		if p.known, err = p.Reference.Varied(ctx, func(d float64) { progress(d / 2) }); err != nil {
			return nil, err
		}
	}
	v := &vary.Varier{Maker: p.att.Maker, Collisions: true}
	own, err := v.Begin(ctx, p.att.Document)
	var cannot *vary.Error
	switch {
	case errors.As(err, &cannot):
		return out, nil // told of the joints
	case err != nil:
		return nil, err
	}
	for i := range should {
		progress((1 + float64(i)/float64(len(should))) / 2)
		b := &should[i]
		x := report.Varied{Size: b.Title, Item: p.itemOf(b), Verdict: report.In, From: b.Shown(b.Ends[0]),
			To: b.Shown(b.Ends[1])}
		s := p.counterpart(b, own)
		if s == nil {
			x.Verdict, x.Reason = "", "the assembly has no such size of its own"
			out = append(out, x)
			continue
		}
		x.Attempt = s.Title
		if err := p.bear(ctx, v, b, s, &x); err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, nil
}

// bear varies one size of an attempt, as far as the reference bears it. What the reference does not bear either way
// tells nothing.
func (p *placement) bear(ctx context.Context, v *vary.Varier, b, s *vary.Size, x *report.Varied) error {
	told := false
	for k, end := range b.Ends {
		far := p.known[b.Title][k]
		if far < 1 {
			far -= earlier
		}
		if far <= 0 {
			continue
		}
		told = true
		at := b.Between(b.Now.Value, end, far)
		to := s.Now.Value / b.Now.Value * at
		found, err := v.Towards(ctx, s, to)
		if err != nil {
			return err
		}
		if found == nil {
			if found, err = p.still(ctx, b, s, at, to); err != nil {
				return err
			}
		}
		if found == nil {
			continue
		}
		x.Verdict, x.At, x.Kind, x.Reason, x.Remedy = report.Out, found.From, found.Kind, found.What, found.Remedy
		x.ChargedIn = p.behindParts("")
		if found.Kind == vary.Broken {
			x.ChargedIn = inParts // the check of the part varies its sizes by themselves
		} else if x.ChargedIn == "" && slices.Contains(slices.Collect(maps.Values(p.displaced)), true) {
			x.ChargedIn = inPlacement
		}
		return nil
	}
	if !told {
		x.Verdict, x.Reason = "", "the reference does not bear other values either"
	}
	return nil
}

// sameVolume is by which, as a share, volumes of one part differ at most.
const sameVolume = 1e-4

// still finds a part that does not follow a size of the assembly as that of the reference does: a number stands where a
// formula should. The sizes of parts by themselves are varied in their own checks.
func (p *placement) still(ctx context.Context, b, s *vary.Size, at, to float64) (*vary.Found, error) {
	if b.Owner != vary.OfAssembly {
		return nil, nil
	}
	should, err := p.Maker.Shapes(ctx, b.In(p.Document, at))
	if err != nil {
		return nil, err
	}
	is, err := p.att.Maker.Shapes(ctx, s.In(p.att.Document, to))
	if err != nil {
		return nil, err
	}
	for c := range p.of {
		if !p.there(c) || !p.same(c) {
			continue
		}
		ref, att := should[p.component(c).Part], is[p.att.doc.Components[p.of[c]].Part]
		if ref == nil || att == nil || ref.Broken != nil || att.Broken != nil ||
			math.Abs(ref.Props.Volume-att.Props.Volume) <= sameVolume*ref.Props.Volume {
			continue
		}
		return &vary.Found{Size: s.Title, From: s.Shown(to), Kind: "still", At: to,
			What:   p.title(c) + " does not follow it as it should",
			Remedy: "tie the sizes of that part to the size of the assembly by a formula"}, nil
	}
	return nil, nil
}

// share is how far a value lies on the way from one to another.
func share(at, from, to float64) float64 {
	if to == from {
		return 0
	}
	return math.Abs(at-from) / math.Abs(to-from)
}

// itemOf is the number of the item whose size it is; none of what is of the whole.
func (p *placement) itemOf(s *vary.Size) string {
	if s.Owner != vary.OfPart {
		return ""
	}
	part, _ := p.Document.Part(s.Of)
	return itemNumber(p.Document, part)
}

// counterpart is the size of the attempt that is one of the reference: of the same name, or else the only one of the
// same value, in what stands for the part or joint that it is of. Nil where there is none.
func (p *placement) counterpart(s *vary.Size, own []vary.Size) *vary.Size {
	var same, only *vary.Size
	n := 0
	for i := range own {
		x := &own[i]
		if x.Owner != s.Owner || x.Now.Dim != s.Now.Dim || !p.standsFor(x, s) {
			continue
		}
		if x.Name == s.Name && s.Owner != vary.OfJoint {
			same = x
		}
		if math.Abs(math.Abs(x.Now.Value)-math.Abs(s.Now.Value)) <= sameSize*math.Abs(s.Now.Value) {
			only = x
			n++
		}
	}
	switch {
	case same != nil:
		return same
	case n == 1:
		return only
	}
	return nil
}

// standsFor tells whether what a size of the attempt is of stands for what one of the reference is of.
func (p *placement) standsFor(x, s *vary.Size) bool {
	switch s.Owner {
	case vary.OfPart:
		for c, a := range p.of {
			if a >= 0 && p.component(c).Part == s.Of && p.att.doc.Components[a].Part == x.Of {
				return true
			}
		}
		return false
	case vary.OfJoint:
		ref, okR := p.Document.Joint(s.Of)
		att, okA := p.att.Document.Joint(x.Of)
		if !okR || !okA {
			return false
		}
		a, b := p.inPlaceOf(ref.A), p.inPlaceOf(ref.B)
		return a == att.A.Component && b == att.B.Component || a == att.B.Component && b == att.A.Component
	}
	return true
}

// inPlaceOf is the id of the component of the attempt that stands for that of a reference; empty where none does.
func (p *placement) inPlaceOf(r address.Ref) string {
	if c, ok := p.number[r.Component]; ok && p.there(c) {
		return p.att.doc.Components[p.of[c]].ID
	}
	return ""
}
