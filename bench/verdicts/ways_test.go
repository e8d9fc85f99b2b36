package verdicts

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"slices"

	"hammerset/core/check"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// points gives the sketch that a hole's step stands on, with the points of its sketch by id.
func points(d doc, hole doc) (sketch doc, at map[string][2]float64) {
	for _, s := range steps(d) {
		if s["id"] != hole["sketch"] || s["kind"] != "sketch" {
			continue
		}
		at = map[string][2]float64{}
		for _, x := range asList(s["entities"]) {
			e := x.(doc)
			if c := asList(e["at"]); e["kind"] == "point" && len(c) == 2 {
				at[e["id"].(string)] = [2]float64{c[0].(float64), c[1].(float64)}
			}
		}
		return s, at
	}
	return nil, nil
}

// turnedAbout turns a place about the origin of its plane.
func turnedAbout(p [2]float64, angle float64) []any {
	s, c := math.Sincos(angle)
	return []any{c*p[0] - s*p[1], s*p[0] + c*p[1]}
}

// ring finds a full circular pattern of one hole, drawn on a sketch
// of one point whose origin is on the pattern's axis.
func (m *maker) ring(ctx context.Context, d doc) (pattern, hole, sketch doc, at [2]float64, count int, ok bool) {
	for _, s := range steps(d) {
		of := asList(s["of"])
		if s["kind"] != "circular-pattern" || s["angle"] != nil || len(of) != 1 {
			continue
		}
		for _, h := range steps(d) {
			if h["id"] != of[0] || h["kind"] != "hole" {
				continue
			}
			sk, list := points(d, h)
			pd, b, built := m.build(ctx, d)
			if sk == nil || len(list) != 1 || !built {
				continue
			}
			n, err := b.Table.Eval(s["count"].(string), quantity.Number)
			if err != nil || pd == nil {
				continue
			}
			for _, p := range list {
				at = p
			}
			return s, h, sk, at, int(n), true
		}
	}
	return nil, nil, nil, at, 0, false
}

// halfPitch begins a ring of holes half a pitch off.
func (m *maker) halfPitch(d doc, _ *task) (fault, bool) {
	pattern, _, sk, at, n, ok := m.ring(context.Background(), d)
	if !ok {
		return fault{}, false
	}
	for _, x := range asList(sk["entities"]) {
		x.(doc)["at"] = turnedAbout(at, math.Pi/float64(n))
	}
	sk["constraints"] = []any{}
	return fault{step: title(pattern), half: true, words: title(pattern) + " half a pitch off"}, true
}

// oneByOne puts each edge of a round or chamfer into a step of its own, last first.
func (m *maker) oneByOne(_ context.Context, d doc) bool {
	var out []any
	done := false
	for _, s := range steps(d) {
		edges := asList(s["edges"])
		if (s["kind"] != "fillet" && s["kind"] != "chamfer") || len(edges) < 2 {
			out = append(out, s)
			continue
		}
		done = true
		for k := len(edges) - 1; k >= 0; k-- {
			c := doc{}
			for key, v := range s {
				c[key] = v
			}
			c["edges"] = []any{edges[k]}
			if k > 0 {
				c["id"] = fmt.Sprintf("%s_%d", s["id"], k)
			}
			out = append(out, c)
		}
	}
	d["steps"] = out
	return done
}

// asCuts makes plain holes by circles that are cut out.
func (m *maker) asCuts(_ context.Context, d doc) bool {
	done := false
	var out []any
	for _, s := range steps(d) {
		sk, at := points(d, s)
		if s["kind"] != "hole" || s["form"] != nil || s["extent"] != nil || s["tipAngle"] != nil || sk == nil ||
			s["diameter"] == nil {
			out = append(out, s)
			continue
		}
		entities, constraints := asList(sk["entities"]), asList(sk["constraints"])
		for _, p := range asList(s["at"]) {
			c := "cut_" + p.(string)
			if _, there := at[p.(string)]; !there {
				return false
			}
			entities = append(entities, doc{"id": c, "kind": "circle", "center": p, "radius": 3.0})
			constraints = append(constraints, doc{"id": "d" + c, "kind": "diameter", "of": []any{c}, "value": s["diameter"]})
		}
		sk["entities"], sk["constraints"] = entities, constraints
		out = append(out, doc{"id": s["id"], "kind": "extrude", "name": s["name"], "sketch": s["sketch"], "regions": "all",
			"extent": doc{"kind": "through"}, "result": "cut"})
		done = true
	}
	d["steps"] = out
	return done
}

// unrolled types the places of a ring of holes in place of a pattern.
func (m *maker) unrolled(ctx context.Context, d doc) bool {
	pattern, hole, sk, at, n, ok := m.ring(ctx, d)
	if !ok {
		return false
	}
	var entities, places []any
	for k := range n {
		p := fmt.Sprintf("p%d", k)
		entities = append(entities, doc{"id": p, "kind": "point", "at": turnedAbout(at, 2*math.Pi*float64(k)/float64(n))})
		places = append(places, p)
	}
	sk["entities"], sk["constraints"], hole["at"] = entities, []any{}, places
	d["steps"] = slices.DeleteFunc(asList(d["steps"]), func(s any) bool { return s.(doc)["id"] == pattern["id"] })
	return true
}

// fromTheTop grows the first extrusion down from a plane at its height; its ends change
// their names.
func (m *maker) fromTheTop(_ context.Context, d doc) bool {
	var first, sk doc
	for _, s := range steps(d) {
		if s["kind"] == "extrude" {
			first = s
			break
		}
	}
	if first == nil {
		return false
	}
	x, _ := first["extent"].(doc)
	for _, s := range steps(d) {
		if s["id"] == first["sketch"] {
			sk = s
		}
	}
	plane, _ := sk["plane"].(doc)
	if x["kind"] != "one-side" || plane["datum"] != "XY" || plane["offset"] != nil {
		return false
	}
	plane["offset"], first["reverse"] = x["length"], first["reverse"] != true
	id := first["id"].(string)
	var swap func(v any) any
	swap = func(v any) any {
		switch v := v.(type) {
		case string:
			switch v {
			case id + "/start":
				return id + "/end"
			case id + "/end":
				return id + "/start"
			}
		case []any:
			for i := range v {
				v[i] = swap(v[i])
			}
		case doc:
			for k := range v {
				v[k] = swap(v[k])
			}
		}
		return v
	}
	for _, s := range steps(d) {
		swap(s)
	}
	return true
}

// another makes the right part another way: by a changed history, or as a half that is
// mirrored. false where the part cannot be made like that.
func (m *maker) another(ctx context.Context, t *task, right solid.Shape) (solid.Shape, bool) {
	want, err := m.k.Props(right)
	if err != nil {
		return nil, false
	}
	same := func(s solid.Shape) bool {
		p, err := m.k.Props(s)
		return err == nil && s.Solids() == 1 && math.Abs(p.Volume/want.Volume-1) < 1e-9 && math.Abs(p.Area/want.Area-1) <
			1e-9 && p.Centroid.Distance(want.Centroid) < 1e-6
	}
	ways := []func(context.Context, doc) bool{m.oneByOne, m.asCuts, m.unrolled, m.fromTheTop}
	if k := m.rng.IntN(len(ways) + 1); k < len(ways) {
		d := parse(t.data)
		if !ways[k](ctx, d) {
			return nil, false
		}
		if m.rng.IntN(2) == 0 { // and a second way on top
			ways[m.rng.IntN(len(ways))](ctx, d)
		}
		_, b, ok := m.build(ctx, d)
		if !ok || !same(b.Solid.Shape) {
			return nil, false
		}
		return b.Solid.Shape, true
	}
	box, err := m.k.Bounds(right)
	if err != nil {
		return nil, false
	}
	for axis := range 3 {
		var n solid.Vec
		n[axis] = 1
		half, _, err := m.halves(right, want.Centroid, n, 2*box.Diagonal())
		if err != nil {
			continue
		}
		other, _, err := m.k.Transform(half, solid.Reflection(want.Centroid, n))
		if err != nil {
			continue
		}
		if whole, _, err := m.k.Boolean(solid.Union, half, []solid.Shape{other}); err == nil && same(whole) {
			return whole, true
		}
	}
	return nil, false
}

// otherUnits writes a right solid as a file in another unit, its numbers with it.
func (m *maker) otherUnits(s solid.Shape, move solid.Transform) (check.Attempt, error) {
	units := []struct {
		mm   float64
		text string
	}{{10, "SI_UNIT(.CENTI.,.METRE.)"}, {1000, "SI_UNIT($,.METRE.)"}, {25.4, ""}}
	u := units[m.rng.IntN(len(units))]
	for i := range 3 {
		move.M[i] = move.M[i].Scale(1 / u.mm)
	}
	move.T = move.T.Scale(1 / u.mm)
	a, err := m.step(s, move)
	if err != nil {
		return a, err
	}
	const mm = "SI_UNIT(.MILLI.,.METRE.)"
	if u.text != "" {
		a.STEP = bytes.ReplaceAll(a.STEP, []byte(mm), []byte(u.text))
		return a, nil
	}
	// An inch is a unit by conversion (ISO 10303-41): so many of a base unit.
	a.STEP = bytes.ReplaceAll(a.STEP, []byte("( LENGTH_UNIT() NAMED_UNIT(*) "+mm+" )"),
		[]byte("( CONVERSION_BASED_UNIT('INCH',#9000002) LENGTH_UNIT() NAMED_UNIT(#9000001) )"))
	end := bytes.LastIndex(a.STEP, []byte("ENDSEC;"))
	if end < 0 || !bytes.Contains(a.STEP, []byte("'INCH'")) {
		return a, fmt.Errorf("the file's unit is not written as expected")
	}
	more := "#9000001 = DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.);\n#9000002 = " +
		"LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#9000003);\n#9000003 = ( LENGTH_UNIT() NAMED_UNIT(*) " + mm + " );\n"
	a.STEP = slices.Concat(a.STEP[:end], []byte(more), a.STEP[end:])
	return a, nil
}
