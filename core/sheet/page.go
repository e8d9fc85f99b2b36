package sheet

import (
	"math"
	"slices"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/standards"
)

// page is where the views of an arranged sheet stand: the front view with the one from above under it and the one from
// the left at its right in first angle, over it and at its left in third angle (ISO 5456-2), and a pictorial view in a
// column at the right edge, where the paper has room for that.
type page struct {
	*layout
	paper standards.Paper
	third bool
	stack map[string]float64 // how far the rows of dimensions of a side of a view reach, in mm of paper
	loose int                // notes
}

// Of an arranged sheet, in mm of paper.
const (
	pageLeft     = 32.0  // to the first view
	pageTop      = 33.0  // over the highest one
	pageColumn   = 138.0 // at the right edge, with the pictorial view and the title block
	pageGap      = 30.0  // between views, beside what stands there
	pictorialMax = 110.0
	wideEnough   = 400.0 // a paper that has the column
)

// comfortable is the scale from which a part is drawn large enough to be read on its paper; below it a larger paper is
// taken.
const comfortable = 0.5

// choose finds the paper, from one on in its own series, on which the views are drawn large enough, and their scale.
func (p *page) choose(from string) standards.Scale {
	inches := strings.HasPrefix(from, "Y14.1")
	first := max(0, slices.IndexFunc(standards.Papers, func(x standards.Paper) bool { return x.Name == from }))
	var best standards.Scale
	for _, paper := range standards.Papers[first:] {
		if strings.HasPrefix(paper.Name, "Y14.1") != inches || paper.Width < p.paper.Width {
			continue
		}
		if p.paper = paper; best.Name != "" && paper.Width > 1000 && best.Factor >= comfortable/4 {
			break
		}
		if best = p.scale(); best.Factor >= comfortable {
			break
		}
	}
	return best
}

// scale is the largest one in which the views fit the paper, with what stands beside them.
func (p *page) scale() standards.Scale {
	width, height := p.room()
	for _, s := range standards.Scales {
		if s.Factor*(p.size[0]+p.size[1]) <= width && s.Factor*(p.size[2]+p.size[1]) <= height {
			return s
		}
	}
	return standards.Scales[len(standards.Scales)-1]
}

// column is the width that is kept free at the right edge.
func (p *page) column() float64 {
	if p.paper.Width < wideEnough {
		return margin + 8
	}
	return pageColumn
}

// room is what the paper leaves to the views themselves, across and up.
func (p *page) room() (width, height float64) {
	left, under := p.stackOf("front left", "top left"), p.stackOf("front below", "left below")
	width = p.paper.Width - p.column() - pageLeft - p.between()
	height = p.paper.Height - pageTop - p.foot() - p.under()
	if p.third {
		return width - p.stack["left left"] - p.wide("front"), height - under
	}
	return width - left, height - p.stack["top below"]
}

// stackOf is the farthest reach of several sides.
func (p *page) stackOf(sides ...string) float64 {
	most := 0.0
	for _, s := range sides {
		most = math.Max(most, p.stack[s])
	}
	return most
}

// between is what stands between the two columns of views: notes at the right of the left one, lines of dimension of
// the right one.
func (p *page) between() float64 {
	if p.third {
		return pageGap + p.wide("left") + p.stackOf("front left", "top left")
	}
	return pageGap + p.wide("front") + p.stack["left left"]
}

// under is what stands between the two rows of views.
func (p *page) under() float64 {
	if p.third {
		return pageGap + p.stack["top below"]
	}
	return pageGap + p.stackOf("front below", "left below")
}

// foot is what is kept free for notes at the foot of the sheet.
func (p *page) foot() float64 { return math.Min(150, 60+8*float64(p.loose)) }

// viewsAt places the views in a scale; over is how far the notes of each reach over its top.
func (p *page) viewsAt(factor float64, over map[string]float64) []exercise.View {
	size, top := p.size, p.paper.Height-pageTop
	half := func(k int) float64 { return factor * size[k] / 2 }
	higher := func(views ...string) float64 {
		most := 0.0
		for _, v := range views {
			most = math.Max(most, over[v]-14)
		}
		return most
	}
	var front, above, beside [2]float64 // the middles of the views
	if p.third {
		beside[0] = pageLeft + p.stack["left left"] + half(1)
		front[0] = beside[0] + half(1) + p.between() + half(0)
		above = [2]float64{front[0], top - higher("top") - half(1)}
		front[1] = above[1] - half(1) - p.under() - math.Max(over["front"], over["left"]) - half(2)
	} else {
		front = [2]float64{pageLeft + p.stackOf("front left", "top left") + half(0), top - higher("front", "left") - half(2)}
		above = [2]float64{front[0], front[1] - half(2) - p.under() - over["top"] - half(1)}
		beside[0] = front[0] + half(0) + p.between() + half(1)
	}
	beside[1] = front[1]
	// A view stands where its origin, that of the model, comes to lie.
	place := func(id string, middle [2]float64, factor float64) [2]float64 {
		f, _ := viewOf(id, p.stand)
		return [2]float64{middle[0] - factor*p.middle.Dot(f.X), middle[1] - factor*p.middle.Dot(f.Y)}
	}
	out := []exercise.View{{ID: "front", Kind: "front", At: place("front", front, factor), Hidden: true},
		{ID: "top", Kind: "top", At: place("top", above, factor), Hidden: true},
		{ID: "left", Kind: "left", At: place("left", beside, factor), Hidden: true}}
	if p.paper.Width < wideEnough {
		return out
	}
	scale := p.pictorial()
	return append(out, exercise.View{ID: "pictorial", Kind: "pictorial", Scale: scale.Name,
		At: place("pictorial", [2]float64{p.paper.Width - 75, 150}, scale.Factor)})
}

// pictorial is the largest scale in which the pictorial view takes no more than its column.
func (p *page) pictorial() standards.Scale {
	for _, s := range standards.Scales {
		if s.Factor*p.size.Norm() <= pictorialMax {
			return s
		}
	}
	return standards.Scales[len(standards.Scales)-1]
}
