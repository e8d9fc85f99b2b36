package session

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
)

// CouplingRow is a coupling of two joints. Lost says why it does not hold.
type CouplingRow struct {
	Coupling assembly.Coupling `json:"coupling"`
	Title    string            `json:"title"`
	Words    string            `json:"words"` // the joints that it ties
	Lost     bool              `json:"lost"`
}

// TraceRow is a point that is traced.
type TraceRow struct {
	Trace assembly.Trace `json:"trace"`
	Title string         `json:"title"`
}

// couple makes, changes or removes a coupling. It holds from where the joints stand: nothing moves by it.
func (s *Session) couple(doc *assembly.Document, c Command) (string, error) {
	if c.Do != "couple" {
		i := slices.IndexFunc(doc.Couplings, func(x assembly.Coupling) bool { return x.ID == c.ID })
		if i < 0 {
			return "", fmt.Errorf("there is no coupling %q", c.ID)
		}
		title := doc.Couplings[i].Title()
		if c.Do == "remove-coupling" {
			doc.Couplings = slices.Delete(doc.Couplings, i, i+1)
			return "remove " + title, nil
		}
		if c.Couple == nil {
			return "", errors.New("there is nothing to change")
		}
		now := &doc.Couplings[i]
		now.Name, now.Ratio = c.Couple.Name, c.Couple.Ratio
		return "change " + title, s.fromHere(doc, now)
	}
	if c.Couple == nil {
		return "", errors.New("there is no coupling to make")
	}
	x := *c.Couple
	x.ID = free("k", len(doc.Couplings), func(id string) bool {
		return slices.ContainsFunc(doc.Couplings, func(o assembly.Coupling) bool { return o.ID == id })
	})
	doc.Couplings = append(doc.Couplings, x)
	return "couple: " + x.Kind, s.fromHere(doc, &doc.Couplings[len(doc.Couplings)-1])
}

// fromHere sets the offset of a coupling so that it holds where the joints stand.
func (s *Session) fromHere(doc *assembly.Document, c *assembly.Coupling) error {
	if err := doc.Check(); err != nil {
		return err
	}
	offset, turns, err := s.m.Standing(*c)
	if err != nil {
		return err
	}
	if c.Offset = strconv.FormatFloat(offset*180/math.Pi, 'g', 15, 64) + " deg"; !turns {
		c.Offset = strconv.FormatFloat(offset, 'g', 15, 64) + " mm"
	}
	return nil
}

// untie takes away the couplings of joints that are gone.
func untie(doc *assembly.Document) {
	doc.Couplings = slices.DeleteFunc(doc.Couplings, func(c assembly.Coupling) bool {
		_, a := doc.Joint(c.A)
		_, b := doc.Joint(c.B)
		return !a || !b
	})
	doc.Drives = slices.DeleteFunc(doc.Drives, func(x assembly.Driving) bool {
		_, there := doc.Joint(x.Joint)
		return !there
	})
}

// driveOver sets over which range a joint is driven, and forgets it where nothing is said.
func driveOver(doc *assembly.Document, c Command) (string, error) {
	x := c.Range
	if x == nil {
		return "", errors.New("there is no range to set")
	}
	j, ok := doc.Joint(x.Joint)
	if !ok {
		return "", fmt.Errorf("there is no joint %q", x.Joint)
	}
	doc.Drives = slices.DeleteFunc(doc.Drives, func(o assembly.Driving) bool { return o.Joint == x.Joint })
	if x.From != "" || x.To != "" {
		doc.Drives = append(doc.Drives, *x)
		table, err := doc.Table(nil)
		if err != nil {
			return "", err
		}
		if _, _, _, err := doc.Range(x.Joint, table); err != nil {
			return "", err
		}
	}
	return "set the range of " + doc.TitleOf(j), nil
}

// trace makes or removes a trace.
func (s *Session) trace(doc *assembly.Document, c Command) (string, error) {
	if c.Do == "remove-trace" {
		i := slices.IndexFunc(doc.Traces, func(t assembly.Trace) bool { return t.ID == c.ID })
		if i < 0 {
			return "", fmt.Errorf("there is no trace %q", c.ID)
		}
		doc.Traces = slices.Delete(doc.Traces, i, i+1)
		return "remove a trace", nil
	}
	if c.Trace == nil || s.feature(c.Trace.Of) == nil {
		return "", errors.New("there is no point to trace: pick a face, an edge or a corner")
	}
	t := *c.Trace
	t.ID = free("t", len(doc.Traces), func(id string) bool {
		return slices.ContainsFunc(doc.Traces, func(o assembly.Trace) bool { return o.ID == id })
	})
	doc.Traces = append(doc.Traces, t)
	return "trace a point", nil
}

// ties adds couplings and traces to the picture.
func (s *Session) ties(out *Frame) {
	out.Couplings, out.Traces = []CouplingRow{}, []TraceRow{}
	for _, c := range s.doc.Couplings {
		row := CouplingRow{Coupling: c, Title: c.Title()}
		a, _ := s.doc.Joint(c.A)
		b, _ := s.doc.Joint(c.B)
		row.Words = s.doc.TitleOf(a) + " drives " + s.doc.TitleOf(b)
		row.Lost = slices.ContainsFunc(s.m.Lost(), func(l assembly.Lost) bool { return l.Joint == c.ID })
		out.Couplings = append(out.Couplings, row)
	}
	for _, t := range s.doc.Traces {
		title := t.Name
		if title == "" {
			title = s.called(t.Of)
		}
		out.Traces = append(out.Traces, TraceRow{t, title})
	}
}

// Motion is what happens while a joint is driven over its range: as a table, and the paths of the traced points.
type Motion struct {
	Table *assembly.Table `json:"table"`
	Paths []Path          `json:"paths"`
}

// Path is where a traced point goes, in mm, and how large that is, in words.
type Path struct {
	Trace  string       `json:"trace"`
	Points [][3]float64 `json:"points"`
	Size   string       `json:"size"`
}

// steps of a recorded motion.
const steps = 180

// Motion records a joint driven over its range. The assembly stays where it is.
func (s *Session) Motion(joint string) (*Motion, error) {
	m, err := s.Mechanism()
	if err != nil {
		return nil, err
	}
	d, err := m.Drive(joint)
	if err != nil {
		return nil, err
	}
	over := s.driven(joint)
	if over == nil {
		return nil, errors.New("the joints do not hold together: put that right before driving one")
	}
	scale, err := s.scale(d.Turns)
	if err != nil {
		return nil, err
	}
	points, _ := m.Traced()
	record := d.Record(over.Least*scale, over.Most*scale, steps, points)
	out := &Motion{Paths: []Path{}}
	if out.Table, err = m.Table(record); err != nil {
		return nil, err
	}
	unit, err := quantity.LengthUnit(s.doc.Unit)
	if err != nil {
		return nil, err
	}
	for k := range points {
		p := Path{Trace: s.doc.Traces[k].ID}
		low, high := [3]float64{}, [3]float64{}
		for i, x := range record.Moments {
			at := [3]float64(x.Places[k])
			for c := range at {
				if i == 0 {
					low[c], high[c] = at[c], at[c]
				}
				low[c], high[c] = min(low[c], at[c]), max(high[c], at[c])
			}
			p.Points = append(p.Points, at)
		}
		size := func(c int) string { return fmt.Sprintf("%.4g", (high[c]-low[c])/unit.Factor) }
		p.Size = fmt.Sprintf("%s × %s × %s %s", size(0), size(1), size(2), unit.Symbol)
		out.Paths = append(out.Paths, p)
	}
	return out, nil
}
