package check

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// Relative tolerances of the whole-part figures: four significant figures are
// what people compare by hand; the machine asks for five.
const (
	volumeTolerance = 1e-5
	placeTolerance  = 0.01 // mm, centre of mass and overall sizes
	momentTolerance = 5e-5 // a moment goes with the fifth power of a size
)

// wholeFigures is how many figures of the whole part count.
const wholeFigures = 6

// figures compares the figures of the whole part.
//
// Figures of the whole part find what no characteristic is on. Tolerances are
// relative to the sizes that make them: a length that is off by 1e-6 of itself
// puts a volume off by up to 3e-6, and a moment of inertia by 5e-6. Centre of
// mass and extents are absolute, as the kernel places them to 1e-3 mm.
func (r *frame) figures(shape solid.Shape, rows []row) []report.Figure {
	var out []report.Figure
	unit, _ := quantity.LengthUnit(r.ex.Unit)
	add := func(id, label string, ref, got, tol float64, text string) {
		f := report.Figure{ID: id, Label: label, Measured: got, Text: text, Verdict: report.Out}
		refCopy := ref
		f.Reference = &refCopy
		if math.Abs(got-ref) <= tol {
			f.Verdict = report.In
		}
		if ref != 0 {
			f.Deviation = fmt.Sprintf("%+.3g %%", 100*(got-ref)/ref)
			if math.Abs(got-ref) <= 1e-9*math.Abs(ref) {
				f.Deviation = "0 %"
			}
		}
		out = append(out, f)
	}
	power := func(v float64, n int) string {
		if math.Abs(v) < 1e-9 { // what is left of rounding
			v = 0
		}
		return fmt.Sprintf("%.6g %s%s", v/math.Pow(unit.Factor, float64(n)), unit.Symbol,
			map[int]string{1: "", 2: "²", 3: "³"}[n])
	}
	moved := r.moved()
	want := max(1, r.ex.Solids)
	add("solids", "Solids", float64(want), float64(r.solids()), 0, quantity.Count(r.solids(), "solid", "solids"))
	// Where a balloon asks for their number, it costs there.
	out[0].Carried = slices.ContainsFunc(rows, func(w row) bool { return w.Kind == "solids" && w.Verdict == report.Out })
	add("volume", "Volume", r.ref.Props.Volume, r.att.Props.Volume, volumeTolerance*r.ref.Props.Volume,
		power(r.att.Props.Volume, 3))
	add("area", "Surface area", r.ref.Props.Area, r.att.Props.Area, volumeTolerance*r.ref.Props.Area,
		power(r.att.Props.Area, 2))
	off := moved.Props.Centroid.Distance(r.ref.Props.Centroid)
	add("centre", "Centre of mass, from where it should be", 0, off, placeTolerance, power(off, 1))
	worst := largest(r.ref.Extent().Sub(moved.Extent()))
	if worst > placeTolerance && shape != nil && bulges(r.ref) {
		if b, err := r.bounds(shape); err == nil {
			worst = math.Min(worst, largest(r.ref.Box.Max.Sub(r.ref.Box.Min).Sub(b.Max.Sub(b.Min))))
		}
	}
	add("size", "Overall sizes, largest difference", 0, worst, placeTolerance, power(worst, 1))
	return append(out, r.moments())
}

// moments compares the principal moments of inertia of the part at density one.
func (r *frame) moments() report.Figure {
	want, got := atlas.FiguresOf(r.ref.Props, 1, solid.Identity).Inner,
		atlas.FiguresOf(r.att.Props, 1, solid.Identity).Inner
	f := report.Figure{ID: "moments", Label: "Principal moments of inertia, density 1", Measured: got[2],
		Verdict: report.In, Deviation: "0 %"}
	f.Reference = &want[2]
	worst := 0.0
	unit, _ := quantity.LengthUnit(r.ex.Unit)
	// In one power of ten for all three, as engineers write them.
	largest := got[2] / math.Pow(unit.Factor, 5)
	tens := 3 * int(math.Floor(math.Log10(math.Max(largest, 1e-30))/3))
	var list []string
	for i := 2; i < 5; i++ {
		list = append(list, fmt.Sprintf("%.4g", got[i]/math.Pow(unit.Factor, 5)/math.Pow(10, float64(tens))))
		if d := (got[i] - want[i]) / want[i]; math.Abs(d) > math.Abs(worst) {
			worst = d
		}
	}
	f.Text = strings.Join(list, ", ")
	if tens != 0 {
		f.Text += " × 10" + superscript(tens)
	}
	f.Text += " " + unit.Symbol + "⁵"
	if math.Abs(worst) > momentTolerance {
		f.Verdict = report.Out
	}
	if math.Abs(worst) > 1e-9 {
		f.Deviation = fmt.Sprintf("%+.3g %%", 100*worst)
	}
	return f
}

// superscript writes a whole number raised.
func superscript(n int) string {
	return strings.NewReplacer("-", "⁻", "0", "⁰", "1", "¹", "2", "²", "3", "³", "4", "⁴", "5", "⁵", "6", "⁶", "7", "⁷",
		"8", "⁸", "9", "⁹").Replace(fmt.Sprint(n))
}

// largest is the largest component of a vector, in any direction.
func largest(v solid.Vec) float64 {
	return math.Max(math.Abs(v[0]), math.Max(math.Abs(v[1]), math.Abs(v[2])))
}

// bulges tells whether a solid has faces that may reach farther than their edges.
func bulges(g *solid.Geometry) bool {
	for _, f := range g.Faces {
		if f.Kind == solid.SphereFace || f.Kind == solid.TorusFace || f.Kind == solid.OtherFace {
			return true
		}
	}
	return false
}

// bounds is the box of the attempt where the reference is, from its surfaces.
func (r *frame) bounds(shape solid.Shape) (solid.Box, error) {
	t := r.pose.Transform
	for i := range t.M {
		t.M[i] = t.M[i].Scale(r.scale)
	}
	laid, _, err := r.k.Transform(shape, t)
	if err != nil {
		return solid.Box{}, err
	}
	return r.k.Bounds(laid)
}

// moved is the attempt in the pose of the reference, the unit undone.
func (r *frame) moved() *solid.Geometry {
	if r.scale != 1 {
		return r.att.Scaled(r.scale).Moved(r.pose.Transform)
	}
	return r.att.Moved(r.pose.Transform)
}

// laid is the attempt where the reference is: the unit undone, in the pose, and settled where
// most of the two agrees.
type laid struct {
	motion solid.Transform
	geo    *solid.Geometry
	mesh   *solid.Mesh
}

// lay brings the attempt, whose mesh it moves, onto the reference.
func (r *frame) lay(m *solid.Mesh) *laid {
	moved := r.moved()
	shift := solid.Translation(inspect.Settle(r.ref, moved, r.match))
	out := &laid{motion: r.pose.Transform, geo: moved.Moved(shift), mesh: m}
	for i := range out.motion.M {
		out.motion.M[i] = out.motion.M[i].Scale(r.scale)
	}
	out.motion = out.motion.Then(shift)
	move := func(v []float64) {
		for i := 0; i+2 < len(v); i += 3 {
			p := out.motion.Apply(solid.Vec{v[i], v[i+1], v[i+2]})
			v[i], v[i+1], v[i+2] = p[0], p[1], p[2]
		}
	}
	move(m.Vertices)
	for _, l := range m.Lines {
		move(l)
	}
	if r.pose.Mirrored {
		for i := 0; i+2 < len(m.Triangles); i += 3 {
			m.Triangles[i+1], m.Triangles[i+2] = m.Triangles[i+2], m.Triangles[i+1]
		}
	}
	return out
}

// Compared is the attempt beside the reference, where they differ: a fine mesh of it with
// how far each vertex lies outside the reference, in millimetres, and what is too much and
// what is missing, as solids. All lie where the reference does.
type Compared struct {
	Mesh      *solid.Mesh `json:"mesh"`
	Deviation []float64   `json:"deviation"`
	TooMuch   *solid.Mesh `json:"tooMuch,omitempty"`
	Missing   *solid.Mesh `json:"missing,omitempty"`
}

// mostFaces bounds the parts whose common and differing material is worked out.
const mostFaces = 600

// agrees tells whether every characteristic that was measured and every figure so far is in.
func agrees(rows []row, figures []report.Figure) bool {
	return !slices.ContainsFunc(rows, func(w row) bool { return w.Verdict != report.In && w.Verdict != report.Ask }) &&
		!slices.ContainsFunc(figures, func(f report.Figure) bool { return f.Verdict != report.In })
}

// elsewhere looks, where everything agrees, whether every face lies where it should: a ring
// of holes that begins half a pitch off, or a feature on another side of a symmetric part,
// changes no figure and, where the sheet gives no place from an edge, no characteristic. most is how far a
// face may lie elsewhere in a part within its limits.
func (r *frame) elsewhere(known, mine *inspect.Meshed, rows []row, figures []report.Figure,
	most float64) []report.Figure {
	if !agrees(rows, figures) || r.scale != 1 || r.pose.Mirrored {
		return nil
	}
	if off := mine.Strays(known, r.pose.Transform, most); len(off) > 0 {
		return []report.Figure{{ID: "places", Label: "Faces where they should be",
			Measured: float64(len(r.att.Faces) - len(off)), Verdict: report.Out,
			Text: fmt.Sprintf("%d of %d lie elsewhere", len(off), len(r.att.Faces))}}
	}
	return nil
}

// compare lays the attempt over the reference and gives the figures of both together: a part
// in the wrong unit in the right one, a mirror image mirrored, so that what else is wrong is
// seen. There is nothing to compare where all agrees.
func (r *frame) compare(known *inspect.Meshed, key, shape solid.Shape, mine *laid, rows []row,
	figures []report.Figure) (*Compared, []report.Figure) {
	if agrees(rows, figures) {
		return nil, nil
	}
	deflection := inspect.Deflection(r.ref.Box)
	side := r.ref.Box.Diagonal() / 30
	out := &Compared{Mesh: inspect.Refine(mine.mesh, mine.geo.Faces, side)}
	var high, low float64
	out.Deviation, high, low = inspect.Compare(out.Mesh, mine.geo.Faces, known.Skin())
	for i, v := range out.Mesh.Vertices {
		out.Mesh.Vertices[i] = math.Round(1e4*v) / 1e4 // for showing
	}
	for i, v := range out.Deviation {
		out.Deviation[i] = math.Round(1e5*v) / 1e5
	}
	_, missing, beyond := inspect.Compare(inspect.Refine(known.Mesh, r.ref.Faces, side), r.ref.Faces,
		inspect.NewSkin(mine.mesh, mine.geo.Faces, deflection))
	high, low = math.Max(high, beyond), math.Max(low, missing)
	f := report.Figure{ID: "deviation", Label: "Largest deviation, outward and inward", Measured: math.Max(high, low),
		Verdict: report.In, Extra: true,
		Text: r.ofDim(quantity.Length, high) + " outward, " + r.ofDim(quantity.Length, low) + " inward"}
	if f.Measured > placeTolerance {
		f.Verdict = report.Out
	}
	shared := r.overlap(key, shape, mine.motion, deflection, rows, out)
	return out, []report.Figure{f, shared}
}

// coaxial is the small shift that brings the axis of a round surface to the very place of the axis of a ring that it
// meets, where it is there but for rounding. A kernel works out how a ring meets a cone or a cylinder about its axis at
// once, if the axes are the same to the last digit, and else follows the two surfaces, which takes twenty times as
// long.
func coaxial(laid, ref []solid.Face) solid.Vec {
	const rounding = 1e-7
	round := func(f solid.Face) bool {
		return f.Kind == solid.CylinderFace || f.Kind == solid.ConeFace || f.Kind == solid.TorusFace
	}
	var shift solid.Vec
	nearest := math.Inf(1)
	for _, a := range laid {
		for _, b := range ref {
			if a.Kind == b.Kind || a.Kind != solid.TorusFace && b.Kind != solid.TorusFace || !round(a) || !round(b) {
				continue
			}
			off := solid.FromAxis(b.Origin, a.Origin, a.Axis)
			apart := a.Bounds.Min.Distance(b.Bounds.Min) + a.Bounds.Max.Distance(b.Bounds.Max)
			if a.Axis.Parallel(b.Axis, rounding) && off.Norm() < rounding && apart < nearest {
				shift, nearest = off, apart
			}
		}
	}
	return shift
}

// overlap works out the material that both have, that the attempt has too much and that it
// lacks. The volumes must add up; where they do not, nothing is claimed.
func (r *frame) overlap(key, shape solid.Shape, t solid.Transform, deflection float64, rows []row,
	out *Compared) report.Figure {
	f := report.Figure{ID: "shared", Label: "Material shared, too much and missing", Verdict: report.Ask, Extra: true,
		Text: "could not be worked out"}
	if len(r.ref.Faces)+len(r.att.Faces) > mostFaces {
		f.Text = "not worked out for a part with so many faces"
		return f
	}
	if r.foreign(rows) {
		f.Text = "not worked out, since it may be another part"
		return f
	}
	laid, _, err := r.k.Transform(shape, t)
	if err != nil {
		return f
	}
	if shift := coaxial(laid.Faces(), r.ref.Faces); shift != (solid.Vec{}) {
		if laid, _, err = r.k.Transform(laid, solid.Translation(shift)); err != nil {
			return f
		}
	}
	volume := func(s solid.Shape) float64 {
		if s.Solids() == 0 && s.Err() == nil {
			return 0
		}
		p, err := r.k.Props(s)
		if err != nil {
			return math.NaN()
		}
		return p.Volume
	}
	const fuzzy = 1e-5
	more, less, err := r.k.Differ(laid, key, fuzzy)
	if err != nil {
		return f
	}
	whole, mine := r.ref.Props.Volume, volume(laid)
	much, lacks := volume(more), volume(less)
	shared := mine - much
	if !(math.Abs(shared-(whole-lacks)) < 1e-3*whole) || shared < 0 {
		return f
	}
	unit, _ := quantity.LengthUnit(r.ex.Unit)
	text := func(v float64) string {
		return fmt.Sprintf("%.4g %s³", v/math.Pow(unit.Factor, 3), unit.Symbol)
	}
	f.Measured, f.Reference = shared, &whole
	f.Text = fmt.Sprintf("%s shared, %s too much, %s missing", text(shared), text(much), text(lacks))
	f.Verdict = report.In
	if much+lacks > volumeTolerance*whole {
		f.Verdict = report.Out
	}
	show := func(s solid.Shape, v float64) *solid.Mesh {
		if v <= volumeTolerance*whole {
			return nil
		}
		m, err := r.k.Mesh(s, deflection, inspect.MeshAngle)
		if err != nil {
			return nil // the figure stands without the picture
		}
		return m
	}
	out.TooMuch, out.Missing = show(more, much), show(less, lacks)
	return f
}
