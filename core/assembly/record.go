package assembly

import (
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Record is the motion of a mechanism while a joint is driven: at each Moment where the other joints and some points
// are, and how fast they go.
type Record struct {
	Joint   string
	Turns   bool    // the drive counts radians, else mm
	Columns []Axis  // joints that move, in the order of the document
	Points  []Point // that are followed
	Moments []Moment
	// Stopped: the mechanism could not follow to the end, or a joint came to its limit.
	Stopped bool
}

// Axis is one motion of a joint.
type Axis struct {
	Joint string
	Turns bool
}

// Point is a place of a component.
type Point struct {
	Title string
	local solid.Vec
	body  int
}

// Moment is a state on the way. Rates and Speeds are for each radian or millimetre of the drive; there are none at a
// dead point, where the drive can only begin to move nothing or everything.
type Moment struct {
	Value  float64
	At     []float64 // of the Columns, radians or mm
	Rates  []float64
	Places []solid.Vec // of the Points
	Speeds []solid.Vec
}

// Point finds the place of a feature, to be followed.
func (m *Mechanism) Point(of address.Ref) (Point, error) {
	c, ok := m.Document.Component(of.Component)
	if !ok {
		return Point{}, fmt.Errorf("there is no component %q", of.Component)
	}
	f, ok := m.Feature(of)
	if !ok {
		return Point{}, fmt.Errorf("%s has no feature %q", c.Title(), of.Name)
	}
	return Point{c.Title() + ", " + f.Words, m.within[of.Component].Apply(f.At), m.bodyOf[of.Component]}, nil
}

// Traced are the points of the document's traces; those whose feature is gone are told as lost.
func (m *Mechanism) Traced() (out []Point, lost []Lost) {
	for i := range m.Document.Traces {
		t := &m.Document.Traces[i]
		p, err := m.Point(t.Of)
		if err != nil {
			lost = append(lost, Lost{t.ID, "a trace has lost its point: " + err.Error(), "pick the point anew"})
			continue
		}
		if t.Name != "" {
			p.Title = t.Name
		}
		out = append(out, p)
	}
	return out, lost
}

// Record drives the joint from one value to another and keeps every state at equal steps of the drive, both ends among
// them.
func (d *Drive) Record(from, to float64, steps int, points []Point) *Record {
	out := &Record{Joint: d.joint.ID, Turns: d.Turns, Points: points}
	var columns []coordinate
	for _, p := range d.m.joints {
		if p == nil || p == d.joint {
			continue
		}
		for _, x := range p.kind.motions {
			columns = append(columns, coordinate{d.m, p, x})
			out.Columns = append(out.Columns, Axis{p.ID, x == turning})
		}
	}
	for k := range steps + 1 {
		value := from + (to-from)*float64(k)/float64(steps)
		if out.Stopped = d.To(value, nil); out.Stopped && (k == 0 || len(out.Moments) > 0 &&
			out.Moments[len(out.Moments)-1].Value == d.value) {
			break
		}
		out.Moments = append(out.Moments, d.moment(columns, points))
		if out.Stopped {
			break
		}
	}
	return out
}

// moment is the present state.
func (d *Drive) moment(columns []coordinate, points []Point) Moment {
	state := d.m.system.State
	out := Moment{Value: d.value}
	way := d.tangent()
	for i := range columns {
		c := &columns[i]
		out.At = append(out.At, c.now(state))
		if way != nil {
			slopes, vars := c.slopes(state)
			rate := 0.0
			for k, v := range vars {
				rate += slopes[k] * way[v]
			}
			out.Rates = append(out.Rates, rate)
		}
	}
	for _, p := range points {
		pose := d.m.pose(state, p.body)
		out.Places = append(out.Places, pose.Apply(p.local))
		if way != nil {
			var speed solid.Vec
			if p.body >= 0 {
				x := way[rigid.Unknowns*p.body : rigid.Unknowns*(p.body+1)]
				turn := solid.Vec{x[0], x[1], x[2]}.Scale(1 / d.m.moves.Reach)
				speed = pose.Rotate(turn.Cross(p.local)).Add(solid.Vec{x[3], x[4], x[5]})
			}
			out.Speeds = append(out.Speeds, speed)
		}
	}
	return out
}

// slopes are those of a coordinate by the unknowns.
func (c *coordinate) slopes(state []float64) (slopes []float64, vars []int) {
	g := c.m.sum([]term{{*c, 1}}, func() float64 { return 0 })
	slopes = make([]float64, len(g.Vars))
	g.Eval(state, make([]float64, 1), slopes)
	return slopes, g.Vars
}

// tangent is the small motion of the unknowns in which the drive goes on by one: of all that the joints leave, the
// least. It is nil where the drive cannot go on.
//
// With g the slopes of the drive and P the projection onto the motions that the joints leave, it is P g / gᵀP g.
func (d *Drive) tangent() []float64 {
	m := d.m
	c := d.coordinate()
	slopes, vars := c.slopes(m.system.State)
	out := make([]float64, m.system.Unknowns())
	for _, part := range m.system.Components(m.system.All()) {
		all := m.system.MotionsOf(part, m.system.State)
		g, some := make([]float64, len(all.Vars)), false
		for k, v := range vars {
			if i, ok := all.Place(v); ok {
				g[i], some = g[i]+slopes[k], true
			}
		}
		if !some {
			continue
		}
		way := all.Project(g)
		for i, v := range all.Vars {
			out[v] = way[i]
		}
	}
	along, size := 0.0, 0.0
	for k, v := range vars {
		along, size = along+slopes[k]*out[v], size+slopes[k]*slopes[k]
	}
	if along < 1e-12*size {
		return nil
	}
	for i := range out {
		if out[i] /= along; math.IsNaN(out[i]) {
			return nil
		}
	}
	return out
}

// Table is a record as a table: a heading for each column and a row for each moment, in degrees and in the unit of the
// document. Nothing is nil: at a dead point there are no speeds.
type Table struct {
	Head []string     `json:"head"`
	Rows [][]*float64 `json:"rows"`
	// Stopped: the mechanism could not follow to the end, or a joint came to its limit.
	Stopped bool `json:"stopped,omitempty"`
}

// Table gives a record as a table.
func (m *Mechanism) Table(r *Record) (*Table, error) {
	unit, err := quantity.LengthUnit(m.Document.Unit)
	if err != nil {
		return nil, err
	}
	in := func(turns bool) quantity.Unit {
		if turns {
			return quantity.Unit{Symbol: "°", Factor: quantity.Degree.Factor, Dim: quantity.Angle}
		}
		return unit
	}
	name := func(joint string) string {
		j, _ := m.Document.Joint(joint)
		return m.Document.TitleOf(j)
	}
	by := in(r.Turns)
	per := func(title string, u quantity.Unit) string {
		return fmt.Sprintf("%s, %s per %s", title, u.Symbol, by.Symbol)
	}
	out := &Table{Head: []string{name(r.Joint) + ", " + by.Symbol}, Stopped: r.Stopped}
	for _, c := range r.Columns {
		u, title := in(c.Turns), name(c.Joint)
		out.Head = append(out.Head, title+", "+u.Symbol, per(title, u))
	}
	for _, p := range r.Points {
		for _, axis := range []string{"x", "y", "z"} {
			out.Head = append(out.Head, fmt.Sprintf("%s %s, %s", p.Title, axis, unit.Symbol))
		}
		out.Head = append(out.Head, per(p.Title+" speed", unit))
	}
	for i := range r.Moments {
		x := &r.Moments[i]
		row := []*float64{share(x.Value, by)}
		for k, c := range r.Columns {
			row = append(row, share(x.At[k], in(c.Turns)), x.rate(k, in(c.Turns), by))
		}
		for k, at := range x.Places {
			row = append(row, share(at[0], unit), share(at[1], unit), share(at[2], unit), x.speed(k, unit, by))
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

func share(v float64, u quantity.Unit) *float64 {
	v /= u.Factor
	return &v
}

// rate is that of a column in one unit for each of another.
func (x *Moment) rate(k int, u, by quantity.Unit) *float64 {
	if x.Rates == nil {
		return nil
	}
	return share(x.Rates[k]*by.Factor, u)
}

// speed is that of a point.
func (x *Moment) speed(k int, u, by quantity.Unit) *float64 {
	if x.Speeds == nil {
		return nil
	}
	return share(x.Speeds[k].Norm()*by.Factor, u)
}
