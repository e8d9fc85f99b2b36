package atlas

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/quantity"
)

// dimension is a size of the reference with the characteristic that states it.
type dimension struct {
	size  *Size
	c     *exercise.Characteristic
	value float64 // of the characteristic
	slope float64 // of the characteristic with the size: 1, or 2 for the diameter of a radius
}

// dimensions lists the sizes that one characteristic states: the one that is bound to the
// parameter, else the first of the size's kind that changes as the size does, at all its
// places.
func (a *Atlas) dimensions(ex *exercise.Exercise) []dimension {
	var out []dimension
	for i := range a.Sizes {
		s := &a.Sizes[i]
		if len(s.Holds) > 0 {
			continue // it is there with what hangs on it
		}
		var best *dimension
		for k := range ex.Characteristics {
			c := &ex.Characteristics[k]
			kind := characteristic.Of(c.Kind)
			list := s.Slopes[c.ID]
			if kind.Dim != s.Dim || kind.Zero() || len(list) == 0 {
				continue
			}
			even := func(x float64) bool { return math.Abs(x-list[0]) < 1e-3 }
			whole := math.Abs(math.Abs(list[0])-1) < 1e-3 || math.Abs(math.Abs(list[0])-2) < 1e-3
			if !whole || slices.ContainsFunc(list, func(x float64) bool { return !even(x) }) {
				continue
			}
			bound := c.Parameter == s.Parameter
			if best == nil || bound && best.c.Parameter != s.Parameter {
				best = &dimension{s, c, a.Values[c.ID][0], list[0]}
			}
		}
		if best != nil {
			out = append(out, *best)
		}
	}
	return out
}

// misreading is a size that was read wrongly off the sheet, and what its characteristic measures then.
type misreading struct {
	Entry
	reads float64
}

// shows tells whether the characteristic measures, at all its places, what was read for it.
func (m *misreading) shows(v Values) bool {
	list := v[m.Characteristic]
	return len(list) > 0 && !slices.ContainsFunc(list, func(x float64) bool { return math.Abs(x-m.reads) > 1e-4 })
}

// misread lists the mistakes of reading a size off the sheet: the value of the dimension of
// its kind before or after it, a length from the wrong face, from the other end or from the wrong side of a
// wall (off by a dimension that begins at one of its faces, or what is left of that), a fraction
// that was rounded, and what was taken for twice or half of it.
func (a *Atlas) misread(ex *exercise.Exercise) []misreading {
	var out []misreading
	inch := quantity.Inch.Factor
	for _, d := range a.dimensions(ex) {
		stated := ex.StatedOf(d.c, d.value).Text
		add := func(kind string, value float64, cause, remedy string) {
			v := d.size.Nominal + (value-d.value)/d.slope
			if math.Abs(value-d.value) < 1e-6 || value < 1e-6 || v < 1e-6 {
				return
			}
			if slices.ContainsFunc(out, func(e misreading) bool {
				return e.Parameter == d.size.Parameter && math.Abs(e.Value-v) < 1e-6
			}) {
				return // the more usual one is there already
			}
			out = append(out, misreading{reads: value, Entry: Entry{Kind: kind, Characteristic: d.c.ID,
				Parameter: d.size.Parameter, Dim: d.size.Dim, Value: v, Cause: cause, Remedy: remedy,
				What: fmt.Sprintf("%s: %s in place of %s", d.c.Label, ex.StateOf(d.c.Declared(), value).Text, stated)}})
		}
		switch {
		case d.c.Kind == "diameter":
			add("double", 2*d.value, "the diameter was typed where the radius was asked for",
				fmt.Sprintf("give %s; a radius is half of the diameter", stated))
			add("half", d.value/2, "the radius was typed where the diameter was asked for",
				fmt.Sprintf("give %s as a diameter", stated))
		case d.c.Kind == "distance":
			add("double", 2*d.value, "it is exactly twice the size: often the total was given on each side",
				"the total must be "+stated)
			add("half", d.value/2, "it is exactly half the size: often one side was given as the total",
				"the total must be "+stated)
		}
		for _, o := range neighboursOf(ex, d.c) {
			if list := a.Values[o.ID]; len(list) > 0 {
				add("neighbour", list[0], fmt.Sprintf("the value of a neighbouring dimension (balloon %d, %s) was read", o.Balloon,
					ex.StatedOf(o, list[0]).Text), fmt.Sprintf("give %s here", stated))
			}
		}
		for k := range ex.Characteristics {
			o := &ex.Characteristics[k]
			list := a.Values[o.ID]
			if o.ID == d.c.ID || len(list) == 0 || !d.c.Declared().Span || !o.Declared().Span || !meets(o, d.c) {
				continue
			}
			kind, cause := "wrong-face", fmt.Sprintf("measured from the wrong face: it is off by exactly the size at balloon "+
				"%d (%s)", o.Balloon, ex.StatedOf(o, list[0]).Text)
			if o.Kind == "wall" {
				kind, cause = "wall", fmt.Sprintf("taken from the wrong side of the wall: it is off by exactly the size at "+
					"balloon %d (%s)", o.Balloon, ex.StatedOf(o, list[0]).Text)
			}
			for _, v := range []float64{d.value - list[0], d.value + list[0]} {
				add(kind, v, cause, fmt.Sprintf("look from which face the sheet gives %s", stated))
			}
			add("wrong-face", list[0]-d.value, fmt.Sprintf("measured from the other end: with the sheet's %s it makes up the "+
				"size at balloon %d (%s)", stated, o.Balloon, ex.StatedOf(o, list[0]).Text),
				fmt.Sprintf("look from which face the sheet gives %s", stated))
		}
		if ex.Unit == "in" && d.size.Dim == quantity.Length {
			for _, places := range []float64{1000, 100} {
				if v := math.Round(d.value/inch*places) / places * inch; math.Abs(v-d.value) < 0.02*d.value {
					add("rounded", v, "a rounded decimal was entered instead of the fraction", "enter the fraction "+stated)
				}
			}
		}
	}
	return out
}

// neighboursOf are the characteristics of the same kind whose balloons come next before and
// after one.
func neighboursOf(ex *exercise.Exercise, c *exercise.Characteristic) []*exercise.Characteristic {
	var before, after *exercise.Characteristic
	for i := range ex.Characteristics {
		o := &ex.Characteristics[i]
		switch {
		case o.Kind != c.Kind || o.ID == c.ID:
		case o.Balloon < c.Balloon && (before == nil || o.Balloon > before.Balloon):
			before = o
		case o.Balloon > c.Balloon && (after == nil || o.Balloon < after.Balloon):
			after = o
		}
	}
	var out []*exercise.Characteristic
	for _, o := range []*exercise.Characteristic{before, after} {
		if o != nil {
			out = append(out, o)
		}
	}
	return out
}

// meets tells whether two characteristics are measured on a face of the same name.
func meets(a, b *exercise.Characteristic) bool {
	for _, p := range a.Of {
		for _, ref := range p {
			if slices.ContainsFunc(b.Of, func(q []address.Ref) bool { return slices.Contains(q, ref) }) {
				return true
			}
		}
	}
	return false
}

// stated notes the size in which a mistake is made, where its formula has one parameter, and the
// characteristic that states it.
func (e *Entry) stated(ex *exercise.Exercise) {
	if len(e.Alterations) != 1 || e.Alterations[0].Do != part.AlterSize || e.Kind == "count" {
		return
	}
	f, err := quantity.Parse(e.Alterations[0].Text)
	if err != nil || len(f.Names()) != 1 {
		return
	}
	e.Uses = f.Names()[0]
	for i := range ex.Characteristics {
		if c := &ex.Characteristics[i]; c.Parameter == e.Uses {
			e.Characteristic = c.ID
			return
		}
	}
}
