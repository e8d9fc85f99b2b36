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
func Hold(ctx context.Context, r *part.Rebuilder, doc *part.Document, name string, lo, hi float64, share Share, progress func(float64)) (least, most End, err error) {
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
	standing := map[string]bool{}
	for _, s := range base.Steps {
		standing[s.ID] = s.Err == nil
	}
	r.Brief = true
	defer func() { r.Brief = false }()
	count := base.Solid.Shape.Solids()
	// breaks says why the model does not hold at a value, or nothing.
	breaks := func(v float64) (string, error) {
		b, err := r.Rebuild(ctx, doc, map[string]quantity.Quantity{name: {Value: v, Dim: now.Dim}})
		if ctx.Err() != nil {
			return "", ctx.Err()
		}
		if err != nil {
			return err.Error(), nil // a formula that cannot be worked out there
		}
		for _, s := range b.Steps {
			if standing[s.ID] && s.Err != nil {
				return s.Err.Error(), nil
			}
		}
		if b.Solid == nil {
			return "there is no solid any more", nil
		}
		if n := b.Solid.Shape.Solids(); n != count {
			return fmt.Sprintf("there are %d solids, and %d before", n, count), nil
		}
		if err := r.Kernel().Check(b.Solid.Shape); err != nil {
			return err.Error(), nil
		}
		return "", nil
	}
	const coarse = 8
	done := 0.0
	search := func(end float64) (End, error) {
		good := now.Value
		whole := now.Dim == quantity.Number && now.Value == math.Trunc(now.Value) // a count
		for k := 1; k <= coarse; k++ {
			v := now.Value + (end-now.Value)*float64(k)/coarse
			if whole {
				v = math.Round(v)
			}
			if v == good {
				continue
			}
			why, err := breaks(v)
			if err != nil {
				return End{}, err
			}
			done += 0.5 / (coarse + 4)
			progress(math.Min(done, 0.99))
			if why == "" {
				good = v
				continue
			}
			bad := v
			for math.Abs(bad-good) > resolution*math.Max(math.Abs(now.Value), 1e-9) && !(whole && math.Abs(bad-good) <= 1) {
				mid := (good + bad) / 2
				if whole {
					mid = math.Trunc(mid)
				}
				w, err := breaks(mid)
				if err != nil {
					return End{}, err
				}
				if w == "" {
					good = mid
				} else {
					bad, why = mid, w
				}
			}
			return End{At: good, Found: true, Why: why}, nil
		}
		return End{At: good}, nil
	}
	if share.has(0) {
		if least, err = search(lo); err != nil {
			return least, most, err
		}
	}
	done = 0.5
	if share.has(1) {
		most, err = search(hi)
	}
	return least, most, err
}
