package assemblies

import (
	"math"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// moving adds what a sheet shows of how the reference moves: the curves that points trace, the ends of drives, which
// components move at all, and the fits in which they do.
func (s *Shown) moving(r *key, is *standing) error {
	f := &found{key: r, of: make([]int, len(r.kindOf))}
	motions := f.ofMechanism(r.mech)
	for i := range s.Components {
		free, idle := motions.relative(r.base(), i, r.size())
		s.Components[i].Moves = i != r.base() && free.without(idle).dim() > 0
	}
	base := r.pose(r.base())
	for _, t := range r.mech.Document.Traces {
		m, err := is.moving()
		if err != nil {
			return err
		}
		path, err := is.path(m, t.ID)
		if err != nil {
			continue // nothing drives it
		}
		for k := range path {
			path[k] = base.Apply(path[k])
		}
		s.Curves = append(s.Curves, path)
	}
	s.fits(r)
	list, err := r.drives()
	if err != nil {
		return err
	}
	for _, w := range list {
		if err := s.ends(r, is, w); err != nil {
			return err
		}
	}
	return nil
}

// ends adds where components stand at the ends of a drive. What is driven all the way round has none: then those are
// added that swing or slide to and fro against the base, where they turn back.
func (s *Shown) ends(r *key, is *standing, w way) error {
	m, err := is.moving()
	if err != nil {
		return err
	}
	d, err := m.Drive(w.joint)
	if err != nil {
		return err
	}
	if d.Turns && w.to-w.from > 2*math.Pi-angleLimit {
		return s.turningBack(r, is, w, d.Record(w.from, w.to, pathSteps, nil))
	}
	for _, end := range []float64{w.from, w.to} {
		if err := s.at(r, is, w, end, func(int) bool { return true }); err != nil {
			return err
		}
	}
	return nil
}

// at adds some components where they stand when a joint is driven to a value.
func (s *Shown) at(r *key, is *standing, w way, value float64, shown func(n int) bool) error {
	m, err := is.moving()
	if err != nil {
		return err
	}
	d, err := m.Drive(w.joint)
	if err != nil {
		return err
	}
	d.To(value, nil)
	for i := range s.Components {
		pose := m.Pose(s.Components[i].ID)
		if shown(i) && apart(pose, r.pose(i), r.size()) > lengthLimit {
			s.Ends = append(s.Ends, ShownEnd{i, pose})
		}
	}
	return nil
}

// turningBack adds components where they turn back.
func (s *Shown) turningBack(r *key, is *standing, w way, rec *assembly.Record) error {
	base := r.base()
	for k, c := range rec.Columns {
		j, ok := r.mech.Document.Joint(c.Joint)
		if !ok || c.Joint == w.joint {
			continue
		}
		a, b := r.number[j.A.Component], r.number[j.B.Component]
		if a != base && b != base {
			continue
		}
		least, most := rec.Moments[0], rec.Moments[0]
		for _, x := range rec.Moments {
			if x.At[k] < least.At[k] {
				least = x
			}
			if x.At[k] > most.At[k] {
				most = x
			}
		}
		if by := most.At[k] - least.At[k]; by < 1e-3 || c.Turns && by > 2*math.Pi-0.1 {
			continue
		}
		for _, x := range []assembly.Moment{least, most} {
			if err := s.at(r, is, w, x.Value, func(n int) bool { return n != base && (n == a || n == b) }); err != nil {
				return err
			}
		}
	}
	return nil
}

// apart is how far two poses bring something of a size apart.
func apart(a, b rigid.Pose, size float64) float64 {
	most := 0.0
	for _, p := range []solid.Vec{{}, {size, 0, 0}, {0, size, 0}, {0, 0, size}} {
		most = math.Max(most, a.Apply(p).Distance(b.Apply(p)))
	}
	return most
}

// fits adds the fits that joints state.
func (s *Shown) fits(r *key) {
	for i := range r.joints {
		j := &r.joints[i]
		of, on := j.Features()
		if j.Fit == "" || of.Radius == 0 || of.Hollow == on.Hollow {
			continue
		}
		bore, at, name := of, j.a, j.A.Name
		if on.Hollow {
			bore, at, name = on, j.b, j.B.Name
		}
		placed := bore.Placed(r.pose(at).Apply, r.pose(at).Rotate)
		x := ShownFit{j.Fit, 2 * bore.Radius, placed.At, placed.Frame().Z}
		for _, of := range strings.Split(name, " & ") { // a little within the hole, where the joint is on its rim
			if f, ok := r.parts[at].Shape.Feature(of); ok && f.Form == assembly.Cylinder {
				in := r.pose(at).Apply(f.At).Sub(x.At).Dot(x.Axis)
				x.At = x.At.Add(x.Axis.Scale(math.Copysign(math.Min(math.Abs(in), within*f.Length), in)))
			}
		}
		s.Fits = append(s.Fits, x)
	}
}

// within is how far a fit is shown within its hole, as a share of its length.
const within = 0.1
