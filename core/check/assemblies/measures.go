package assemblies

import (
	"context"
	"fmt"
	"math"
	"strings"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// gapSteps are the places of a drive at which a distance is measured.
const gapSteps = 48

// GapOver is the least distance between two components while a joint is driven over its range.
func (s *standing) GapOver(a, b, joint string) (float64, error) {
	m, d, w, err := s.drive(joint)
	if err != nil {
		return 0, err
	}
	least := math.Inf(1)
	for k := range gapSteps + 1 {
		d.To(w.from+(w.to-w.from)*float64(k)/gapSteps, nil)
		gap, err := s.gapAt(a, b, func(id string) (rigid.Pose, error) { return s.carried(m, id) })
		if err != nil {
			return 0, err
		}
		least = math.Min(least, gap)
	}
	return least, nil
}

// carried is where the solid of a component is as a mechanism stands.
func (s *standing) carried(m *assembly.Mechanism, id string) (rigid.Pose, error) {
	p, ok := s.solids[id]
	if !ok {
		return rigid.Pose{}, s.missing(id)
	}
	return p.at.Then(s.ways[id].Pose.Inverse()).Then(m.Pose(id)), nil
}

// gapAt is the distance between two components that stand somewhere.
func (s *standing) gapAt(a, b string, at func(id string) (rigid.Pose, error)) (float64, error) {
	var picks [2]solid.Pick
	for i, id := range []string{a, b} {
		pose, err := at(id)
		if err != nil {
			return 0, err
		}
		shape, _, err := s.k.Transform(s.solids[id].solid, pose.Transform())
		if err != nil {
			return 0, err
		}
		picks[i] = solid.Pick{Shape: shape, Kind: solid.PickWhole}
	}
	d, _, _, err := s.k.Distance(picks[0], picks[1])
	return d, err
}

// Aligned is by how much the holes of two components that line up in the reference are out of line at most.
func (s *standing) Aligned(a, b string) (float64, error) {
	ref := s.ofReference(context.Background())
	most, n := 0.0, 0
	for _, f := range s.holes(a) {
		for _, g := range s.holes(b) {
			of, on := address.Ref{Component: a, Name: f}, address.Ref{Component: b, Name: g}
			was, err := ref.Between(of, on)
			if err != nil {
				return 0, err
			}
			if was.Beside > lengthLimit || math.Sin(was.Angle) > angleLimit {
				continue
			}
			is, err := s.Between(of, on)
			if err != nil {
				return 0, err
			}
			most = math.Max(most, is.Beside)
			n++
		}
	}
	if n == 0 {
		return 0, fmt.Errorf("no holes of %s and %s line up", s.title(s.number[a]), s.title(s.number[b]))
	}
	return most, nil
}

// holes are the names of the hollow round faces of a component of the reference.
func (s *standing) holes(component string) []string {
	var out []string
	for _, f := range s.parts[s.number[component]].Shape.Features {
		if f.Form == assembly.Cylinder && f.Hollow {
			out = append(out, f.Name)
		}
	}
	return out
}

// Centre is how far the centre of mass lies from that of the reference.
func (s *standing) Centre() (float64, error) {
	is, err := s.centre()
	if err != nil {
		return 0, err
	}
	should, err := s.should()
	return is.Distance(should), err
}

// centreIn is the centre of mass in the coordinates of the base, as a mechanism stands.
func (s *standing) centreIn(m *assembly.Mechanism, density func(n int) (float64, error)) (solid.Vec, error) {
	sum, all := solid.Vec{}, 0.0
	for i := range s.mech.Document.Components {
		id := s.component(i).ID
		p, ok := s.solids[id]
		if !ok {
			continue
		}
		props, err := s.k.Props(p.solid)
		if err != nil {
			return sum, err
		}
		rho, err := density(i)
		if err != nil {
			return sum, err
		}
		pose, err := s.carried(m, id)
		if err != nil {
			return sum, err
		}
		sum, all = sum.Add(pose.Apply(props.Centroid).Scale(rho*props.Volume)), all+rho*props.Volume
	}
	base := s.component(s.base()).ID
	if _, ok := s.solids[base]; !ok {
		return sum, s.missing(base)
	}
	return m.Pose(base).Inverse().Apply(sum.Scale(1 / all)), nil
}

// Unlisted is how many lines of the parts list have another name or material.
func (s *standing) Unlisted() (int, error) { return s.unlisted() }

// unlisted counts the items whose parts are called otherwise than the parts list does, or are of another material. A
// file of solids says nothing of materials.
func (p *placement) unlisted() (int, error) {
	other := map[string]bool{}
	for c := range p.of {
		if !p.there(c) {
			continue // told as missing
		}
		should := p.part(c)
		a := p.att.doc.Components[p.of[c]]
		is, _ := p.att.doc.Part(a.Part)
		if !strings.EqualFold(strings.TrimSpace(is.Name), strings.TrimSpace(should.Name)) {
			other[should.ID] = true
		}
		if want := materialOf(should, p.Made[should.ID].Shape); want != "" && p.att.Kind != FromSolids &&
			!strings.EqualFold(materialOf(is, p.att.made[a.Part].Shape), want) {
			other[should.ID] = true
		}
	}
	return len(other), nil
}

// materialOf is what a part is made of, as the assembly says or else its model.
func materialOf(p *assembly.Part, made *assembly.Shape) string {
	if p.Material != "" {
		return p.Material
	}
	return made.Material
}
