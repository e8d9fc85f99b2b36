package robust

import (
	"context"
	"fmt"
	"math"

	"hammerset/core/part"
	"hammerset/core/quantity"
)

// End is one end of the interval of a parameter: where the model breaks, or where
// the search ended without that.
type End struct {
	At    float64 // in millimetres, radians or plain
	Found bool
	Why   string
}

// resolution is how closely an end is found, relative to the value.
const resolution = 1e-3

// Hold varies one driving parameter alone and finds how far the model holds on
// either side of its value: all steps that stand still stand, and there are as many
// solids as before, each sound. It looks within lo and hi, in even steps first, and
// closes in on the first break by bisection. Of two shares, the first finds the lower end
// and the second the upper one.
func Hold(ctx context.Context, r *part.Rebuilder, doc *part.Document, name string, lo, hi float64, share Share,
	progress func(float64)) (least, most End, err error) {
	base, err := r.Rebuild(ctx, doc, nil)
	if err != nil {
		return least, most, err
	}
	now, ok := base.Table.Lookup(name)
	if !ok {
		return least, most, fmt.Errorf("there is no parameter %q", name)
	}
	if base.Solid == nil {
		return least, most, fmt.Errorf("the model makes no solid yet")
	}
	h := &holder{r: r, doc: doc, name: name, now: now, solids: base.Solid.Shape.Solids(), standing: map[string]bool{},
		progress: progress}
	h.whole = now.Dim == quantity.Number && now.Value == math.Trunc(now.Value)
	for _, s := range base.Steps {
		h.standing[s.ID] = s.Err == nil
	}
	r.Brief = true
	defer func() { r.Brief = false }()
	if share.has(0) {
		if least, err = h.search(ctx, lo); err != nil {
			return least, most, err
		}
	}
	h.done = 0.5
	if share.has(1) {
		most, err = h.search(ctx, hi)
	}
	return least, most, err
}

// holder varies one parameter of a model.
type holder struct {
	r        *part.Rebuilder
	doc      *part.Document
	name     string
	now      quantity.Quantity
	whole    bool            // it is a count
	solids   int             // at the present value
	standing map[string]bool // the steps that stand there
	done     float64
	progress func(float64)
}

// breaks says why the model does not hold at a value, or nothing.
func (h *holder) breaks(ctx context.Context, v float64) (string, error) {
	b, err := h.r.Rebuild(ctx, h.doc, map[string]quantity.Quantity{h.name: {Value: v, Dim: h.now.Dim}})
	if ctx.Err() != nil {
		return "", ctx.Err()
	}
	if err != nil {
		return err.Error(), nil // a formula that cannot be worked out there
	}
	for _, s := range b.Steps {
		if h.standing[s.ID] && s.Err != nil {
			return s.Err.Error(), nil
		}
	}
	if b.Solid == nil {
		return "there is no solid any more", nil
	}
	if n := b.Solid.Shape.Solids(); n != h.solids {
		return fmt.Sprintf("there are %d solids, and %d before", n, h.solids), nil
	}
	if err := h.r.Kernel().Check(b.Solid.Shape); err != nil {
		return err.Error(), nil
	}
	return "", nil
}

// search goes towards an end in even steps, and closes in on the first break.
func (h *holder) search(ctx context.Context, end float64) (End, error) {
	const coarse = 8
	good := h.now.Value
	for k := 1; k <= coarse; k++ {
		v := h.now.Value + (end-h.now.Value)*float64(k)/coarse
		if h.whole {
			v = math.Round(v)
		}
		if v == good {
			continue
		}
		why, err := h.breaks(ctx, v)
		if err != nil {
			return End{}, err
		}
		h.done += 0.5 / (coarse + 4)
		h.progress(math.Min(h.done, 0.99))
		if why != "" {
			return h.between(ctx, good, v, why)
		}
		good = v
	}
	return End{At: good}, nil
}

// between closes in on a break by bisection.
func (h *holder) between(ctx context.Context, good, bad float64, why string) (End, error) {
	fine := resolution * math.Max(math.Abs(h.now.Value), 1e-9)
	if h.whole {
		fine = math.Max(fine, 1)
	}
	for math.Abs(bad-good) > fine {
		mid := (good + bad) / 2
		if h.whole {
			mid = math.Trunc(mid)
		}
		w, err := h.breaks(ctx, mid)
		switch {
		case err != nil:
			return End{}, err
		case w == "":
			good = mid
		default:
			bad, why = mid, w
		}
	}
	return End{At: good, Found: true, Why: why}, nil
}
