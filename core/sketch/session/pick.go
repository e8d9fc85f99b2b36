package session

import (
	"math"
	"strings"

	"hammerset/core/sketch"
	"hammerset/core/sketch/edit"
)

// Pick is the thing under the pointer that a tool can use. What is "size" or "mark" for
// the lettering of a size and the symbol of a constraint, and empty for geometry.
type Pick struct {
	ID   string `json:"id"`
	What string `json:"what,omitempty"`
	// Piece is the path of what trimming would take away here.
	Piece string `json:"piece,omitempty"`
}

// Reaches of picking, in pixels. A point has little room of its own, so that the curves
// that end in it can be taken near it; where no curve is near it has more.
const (
	pickPoint   = 5.0
	pickNear    = 9.0
	pickCurve   = 6.0
	pickBeside  = 10.0 // a curve beside a point that was missed, or for a tool that takes curves alone
	pickExactly = 2.5  // a curve goes before the lettering that lies on it
)

// Pick finds what a tool takes at a place on the screen: "choose" takes anything, the
// tools that edit curves take curves alone, whatever lies over them. Nil when there is
// nothing.
func (s *Session) Pick(tool string, at sketch.Vec, pixel float64) *Pick {
	p := flip(at)
	curve, curveOff := s.nearestCurve(p)
	if tool != "choose" {
		if curve == "" || curveOff > pickBeside*pixel {
			return nil
		}
		out := &Pick{ID: curve}
		if tool == "trim" {
			out.Piece = s.trimmed(curve, p, pixel)
		}
		return out
	}
	point, pointOff := s.nearestPoint(p)
	lettering := s.lettered(at, pixel)
	switch {
	case point != "" && pointOff <= pickPoint*pixel:
		return &Pick{ID: point}
	case lettering != nil && (curve == "" || curveOff > pickExactly*pixel):
		return lettering
	case curve != "" && curveOff <= pickCurve*pixel && (curveOff < pointOff-pixel/2 || pointOff > pickNear*pixel):
		return &Pick{ID: curve}
	case point != "" && pointOff <= pickNear*pixel:
		if curve != "" && curveOff <= pickBeside*pixel && curveOff < pointOff-pixel/2 {
			return &Pick{ID: curve}
		}
		return &Pick{ID: point}
	}
	for _, a := range []struct {
		id  string
		off float64
	}{{sketch.XAxis, math.Abs(p.Y)}, {sketch.YAxis, math.Abs(p.X)}} {
		if a.off <= pickCurve*pixel {
			return &Pick{ID: a.id}
		}
	}
	return nil
}

// nearestCurve is the curve that comes nearest to a place, and how near.
func (s *Session) nearestCurve(p sketch.Vec) (id string, off float64) {
	off = math.Inf(1)
	for i := range s.sol.Curves {
		if _, q := s.sol.Curves[i].Nearest(p); q.Distance(p) < off {
			id, off = s.sol.Curves[i].ID, q.Distance(p)
		}
	}
	return id, off
}

// nearestPoint is the point nearest to a place; of several in one place the one that was
// made first, and the origin last.
func (s *Session) nearestPoint(p sketch.Vec) (id string, off float64) {
	off = math.Inf(1)
	for i := range s.draft.Entities {
		e := &s.draft.Entities[i]
		if q, ok := s.sol.Points[e.ID]; ok && e.Kind == sketch.KindPoint && q.Distance(p) < off {
			id, off = e.ID, q.Distance(p)
		}
	}
	if d := p.Norm(); d < off {
		id, off = sketch.Origin, d
	}
	return id, off
}

// lettered finds the lettering of a size or the symbol of a constraint at a place on the
// screen, as the last picture showed them.
func (s *Session) lettered(at sketch.Vec, pixel float64) *Pick {
	if s.shown == nil {
		return nil
	}
	for i := range s.shown.Sizes {
		v := &s.shown.Sizes[i]
		text := v.Text
		if v.Quiet {
			text = "·" + text[strings.LastIndex(text, " = ")+1:]
		}
		w := (letterWide*float64(len([]rune(text)))/2 + 3) * pixel
		if math.Abs(at.X-v.X) <= w && math.Abs(at.Y-v.Y) <= letterHigh/2*pixel {
			return &Pick{ID: v.ID, What: "size"}
		}
	}
	for i := range s.shown.Marks {
		v := &s.shown.Marks[i]
		if math.Max(math.Abs(at.X-v.X), math.Abs(at.Y-v.Y)) <= letterHigh/2*pixel {
			return &Pick{ID: v.ID, What: "mark"}
		}
	}
	return nil
}

// trimmed is the path of the piece of a curve that trimming at a place would take away;
// empty where it cannot be trimmed.
func (s *Session) trimmed(id string, p sketch.Vec, pixel float64) string {
	for i := range s.sol.Curves {
		c := &s.sol.Curves[i]
		if c.ID != id {
			continue
		}
		lo, hi, ok := edit.TrimPiece(s.sol.Curves, i, p)
		if !ok {
			return ""
		}
		var b strings.Builder
		path(&b, c, lo, hi, true, true, 0.3*pixel)
		return b.String()
	}
	return ""
}
