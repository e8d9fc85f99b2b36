package prepare

import (
	"context"
	"errors"
	"slices"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/sheet"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
)

// Progress is told what goes on, and which share of it is done, from 0 to 1.
type Progress func(stage string, share float64)

// Quietly tells nobody.
func Quietly(string, float64) {}

// clearing tells how far the way is cleared.
func (p Progress) clearing(share float64) { p("clearing the way", share) }

// Arranged lays out the sheet of an exercise anew: views with what is stated at them, cut where something could not be
// seen otherwise, and nothing that runs through texts, as far as that can be.
func Arranged(ctx context.Context, k solid.Kernel, ex exercise.Exercise, ref *part.Named, m sheet.Metrics,
	progress Progress) (*exercise.Sheet, error) {
	progress("projecting the views", 0)
	geo, err := check.Described(k, ref)
	if err != nil {
		return nil, err
	}
	ex.Sheets = []exercise.Sheet{sheet.Arrange(geo, &ex)}
	best, hidden, err := looked(ctx, k, &ex, ref, nil)
	if err != nil {
		return nil, err
	}
	letters := []string{"A", "B"}
	for _, id := range []string{"front", "left"} {
		if len(hidden) == 0 {
			break
		}
		if ex.Sheets.View(id) == nil {
			continue
		}
		// A piece of the view is enough, where that shows all.
		local := ex
		local.Sheets = exercise.Sheets{uncut(*ex.Sheet())}
		if cut, err := sheet.CutLocally(local.Sheet(), best, id, facesOf(hidden)); err != nil {
			return nil, err
		} else if cut {
			projected, left, err := looked(ctx, k, &local, ref, best.Known(ex.Sheets, local.Sheets))
			if err != nil && !errors.Is(err, sheet.ErrNothingCut) {
				return nil, err
			}
			if err == nil && len(left) == 0 {
				ex, best, hidden = local, projected, left
				continue
			}
		}
		face := hidden[0].Faces[0]
		if len(geo.Names[face]) == 0 {
			continue
		}
		other := ex
		other.Sheets = []exercise.Sheet{cutThrough(*ex.Sheet(), id, letters[0], geo.Address(face))}
		projected, left, err := looked(ctx, k, &other, ref, best.Known(ex.Sheets, other.Sheets))
		if err != nil {
			return nil, err
		}
		if err := sheet.LeaveRibs(other.Sheet(), projected, id); err != nil {
			return nil, err
		}
		if len(left) < len(hidden) {
			ex, best, hidden, letters = other, projected, left, letters[1:]
		}
	}
	if err := sheet.Untangle(ctx, &ex, ex.Sheet(), best, m, progress.clearing); err != nil {
		return nil, err
	}
	return refilled(ctx, k, ex, ref, best, m, progress)
}

// refilled is an arranged sheet on the paper that it fills better, if there is one.
func refilled(ctx context.Context, k solid.Kernel, ex exercise.Exercise, ref *part.Named, p *sheet.Projected,
	m sheet.Metrics, progress Progress) (*exercise.Sheet, error) {
	first := ex.Sheet()
	for range 2 { // what stands at the views is another with another scale
		d, err := sheet.LayOut(&ex, ex.Sheet(), p, m)
		if err != nil {
			return nil, err
		}
		again, ok := sheet.Refill(&ex, ex.Sheet(), p, d, m)
		if !ok {
			break
		}
		other := ex
		other.Sheets = exercise.Sheets{again}
		other.Sheets[0].Marks = slices.Clone(again.Marks)
		projected, err := sheet.Project(ctx, k, other.Sheets, ref, p.Known(ex.Sheets, other.Sheets))
		if err == nil {
			err = sheet.Untangle(ctx, &other, other.Sheet(), projected, m, progress.clearing)
		}
		if err != nil {
			return nil, err
		}
		now, err := sheet.LayOut(&other, other.Sheet(), projected, m)
		if err != nil {
			return nil, err
		}
		if !now.Better(d, m) {
			break
		}
		ex, p, first = other, projected, other.Sheet()
	}
	return first, nil
}

// looked projects a sheet, but for the views that are known, and finds what of its characteristics cannot be seen.
func looked(ctx context.Context, k solid.Kernel, ex *exercise.Exercise,
	ref *part.Named, known map[string]*sheet.Projection) (*sheet.Projected, []audit.Hidden, error) {
	p, err := sheet.Project(ctx, k, ex.Sheets, ref, known)
	if err != nil {
		return nil, nil, err
	}
	seen, err := p.Seen(ex.Sheets)
	if err != nil {
		return nil, nil, err
	}
	hidden, err := audit.Unseen(p.Geometry, ex, seen)
	return p, hidden, err
}

// uncut is a sheet with views of its own to be cut.
func uncut(s exercise.Sheet) exercise.Sheet {
	s.Views = slices.Clone(s.Views)
	return s
}

// facesOf are the faces that are not to be seen.
func facesOf(hidden []audit.Hidden) []int {
	var out []int
	for _, h := range hidden {
		out = append(out, h.Faces...)
	}
	return out
}

// cutThrough is a sheet with one of its views cut through the middle of a face. The view from above shows where.
func cutThrough(s exercise.Sheet, view, letter, face string) exercise.Sheet {
	s.Views = slices.Clone(s.Views)
	slices.SortStableFunc(s.Views, func(a, b exercise.View) int { // a parent comes first
		if a.ID == "top" && b.ID != "top" {
			return -1
		}
		if b.ID == "top" && a.ID != "top" {
			return 1
		}
		return 0
	})
	v := s.View(view)
	v.Parent, v.Letter, v.Hidden = "top", letter, false
	v.Cut = &exercise.Cut{Kind: exercise.FullCut, Path: []address.Ref{{Name: face}}}
	return s
}
