// Package personal draws driving sizes for students, so that no two sheets are alike: from stated ranges it makes sets
// of values of which any two differ in two sizes by more than both may deviate.
package personal

import (
	"fmt"
	"math"
	"math/big"
	"math/rand/v2"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
)

// mostValues bounds the values of one range.
const mostValues = 1000

// Error is what is wrong with a range, with what to do.
type Error struct{ What, Remedy string }

func (e *Error) Error() string { return e.What + "; " + e.Remedy }

// Space are the sets of values that can be drawn.
//
// Of every range those values are kept that lie further apart than both may deviate: its levels. A set takes one level
// of each range. All but the range with the most levels are free, and the level of that one is the sum of the others,
// counted around: where two sets differ in one free range alone, their sums differ too, so that any two differ in two
// sizes. No larger choice is possible: sets that agree in all ranges but the longest would differ in one size alone.
type Space struct {
	names  []string
	dims   []quantity.Dim
	levels [][]float64 // of each range, in mm, radians or as numbers, in the order in which they are drawn
	check  int         // the range with the most levels
	format quantity.Format
	ex     *exercise.Exercise
	table  *quantity.Table
	first  *big.Int // where counting begins, and by how much it goes on
	stride *big.Int
}

// New works the ranges of an exercise out. Params are the parameters of its reference, and seed says in which order the
// sets come. The error is an *Error.
func New(ex *exercise.Exercise, params []quantity.Parameter, unit string, seed uint64) (*Space, error) {
	if len(ex.Personal) < 2 {
		return nil, &Error{"two sheets must differ in two sizes, and fewer have a range",
			"give ranges to two driving sizes or more"}
	}
	u, err := quantity.LengthUnit(unit)
	if err != nil {
		return nil, err
	}
	table, err := quantity.Evaluate(params, u, nil)
	if err != nil {
		return nil, err
	}
	s := &Space{format: quantity.FormulaFormat(u), ex: ex, table: table}
	random := rand.New(rand.NewPCG(seed, 0))
	for _, r := range ex.Personal {
		was, ok := table.Lookup(r.Parameter)
		if !ok || !slices.Contains(table.Driving(), r.Parameter) {
			return nil, &Error{fmt.Sprintf("the reference has no driving size %q", r.Parameter), "choose one that it has"}
		}
		values, err := valuesOf(r, table, was.Dim)
		if err != nil {
			return nil, err
		}
		levels, err := apart(ex, r.Parameter, was.Dim, values)
		if err != nil {
			return nil, err
		}
		random.Shuffle(len(levels), func(i, j int) { levels[i], levels[j] = levels[j], levels[i] })
		if s.names = append(s.names, r.Parameter); len(levels) > len(s.most()) {
			s.check = len(s.names) - 1
		}
		s.levels, s.dims = append(s.levels, levels), append(s.dims, was.Dim)
	}
	s.order(random)
	return s, nil
}

// most are the levels of the range with the most of them.
func (s *Space) most() []float64 {
	if len(s.levels) == 0 {
		return nil
	}
	return s.levels[s.check]
}

// order draws in which order the sets come: counted around from a first one in steps that lead through all.
func (s *Space) order(random *rand.Rand) {
	n := s.possible()
	s.first = new(big.Int).Mod(new(big.Int).SetUint64(random.Uint64()), n)
	for {
		s.stride = new(big.Int).Mod(new(big.Int).SetUint64(random.Uint64()|1), n)
		if s.stride.Sign() == 0 {
			s.stride.SetInt64(1)
		}
		if new(big.Int).GCD(nil, nil, s.stride, n).Cmp(big.NewInt(1)) == 0 {
			return
		}
	}
}

func (s *Space) possible() *big.Int {
	n := big.NewInt(1)
	for i, levels := range s.levels {
		if i != s.check {
			n.Mul(n, big.NewInt(int64(len(levels))))
		}
	}
	return n
}

// Possible is how many sets there are, at most a thousand million.
func (s *Space) Possible() int {
	const most = 1_000_000_000
	if n := s.possible(); n.IsInt64() && n.Int64() < most {
		return int(n.Int64())
	}
	return most
}

// Draw gives the set with a number from 0 to below Possible, as formulas by the names of the driving sizes.
func (s *Space) Draw(number int) map[string]string {
	n := s.possible()
	rest := new(big.Int).Mul(s.stride, big.NewInt(int64(number)))
	rest.Add(rest, s.first).Mod(rest, n)
	out := map[string]string{}
	sum := 0
	for i, levels := range s.levels {
		if i == s.check {
			continue
		}
		digit := new(big.Int)
		rest.DivMod(rest, big.NewInt(int64(len(levels))), digit)
		sum += int(digit.Int64())
		out[s.names[i]] = s.format.Text(quantity.Quantity{Value: levels[digit.Int64()], Dim: s.dims[i]})
	}
	levels := s.most()
	out[s.names[s.check]] = s.format.Text(quantity.Quantity{Value: levels[sum%len(levels)], Dim: s.dims[s.check]})
	return out
}

// Apart tells whether two sets differ in two sizes by more than both may deviate. A size that one of them does not have
// differs.
func (s *Space) Apart(a, b map[string]string) bool {
	differ := 0
	for i, name := range s.names {
		x, okX := s.value(a[name], s.dims[i])
		y, okY := s.value(b[name], s.dims[i])
		if !okX || !okY {
			differ++
			continue
		}
		if x > y {
			x, y = y, x
		}
		_, plus, err := allowed(s.ex, name, s.dims[i], x)
		minus, _, err2 := allowed(s.ex, name, s.dims[i], y)
		if err == nil && err2 == nil && y-x > plus+minus+1e-9 {
			differ++
		}
	}
	return differ >= 2
}

func (s *Space) value(formula string, dim quantity.Dim) (float64, bool) {
	v, err := s.table.Eval(formula, dim)
	return v, err == nil
}

// valuesOf are the values of a range, the least first.
func valuesOf(r exercise.Range, table *quantity.Table, dim quantity.Dim) ([]float64, error) {
	var v [3]float64
	for i, formula := range []string{r.Least, r.Most, r.Step} {
		var err error
		if v[i], err = table.Eval(formula, dim); err != nil {
			return nil, &Error{r.Parameter + ": " + err.Error(), "give a value with its unit, as 40 mm"}
		}
	}
	least, most, step := v[0], v[1], v[2]
	switch {
	case step <= 0:
		return nil, &Error{r.Parameter + ": the step is not more than nothing", "give the step from one value to the next"}
	case most < least+step-1e-9:
		return nil, &Error{r.Parameter + ": the range has one value alone", "let it go further, or take a smaller step"}
	case (most-least)/step >= mostValues:
		return nil, &Error{fmt.Sprintf("%s: the range has more than %d values", r.Parameter, mostValues),
			"take a larger step"}
	}
	var out []float64
	for k := 0.0; least+k*step <= most+1e-9; k++ {
		out = append(out, least+k*step)
	}
	return out, nil
}

// apart keeps of values those that lie further apart than the sheet lets both of two deviate.
func apart(ex *exercise.Exercise, parameter string, dim quantity.Dim, values []float64) ([]float64, error) {
	var out []float64
	plusBefore := 0.0
	for _, v := range values {
		minus, plus, err := allowed(ex, parameter, dim, v)
		if err != nil {
			return nil, err
		}
		if len(out) == 0 || v-out[len(out)-1] > plusBefore+minus+1e-9 {
			out, plusBefore = append(out, v), plus
		}
	}
	if len(out) < 2 {
		return nil, &Error{parameter + ": its values lie within what the sheet lets it deviate",
			"let the range go further, or take a closer tolerance"}
	}
	return out, nil
}

// allowed is how far a driving size may lie from a value: as the characteristics say that are driven by it, the widest
// of them, else the rounding of the sheet.
func allowed(ex *exercise.Exercise, parameter string, dim quantity.Dim, v float64) (minus, plus float64, err error) {
	minus = ex.State(dim, v).Half
	if dim != quantity.Number {
		minus = math.Max(minus, 0.01)
	}
	if dim == quantity.Angle {
		minus = math.Max(ex.State(dim, v).Half, 0.01*quantity.Degree.Factor)
	}
	plus = minus
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		if c.Parameter != parameter || c.Declared().Dim != dim {
			continue
		}
		below, above, err := ex.Limits(c, ex.StateOf(c.Declared(), v))
		if err != nil {
			return 0, 0, &Error{fmt.Sprintf("%s, balloon %d: %v", parameter, c.Balloon, err), "put its tolerance right"}
		}
		minus, plus = math.Max(minus, below), math.Max(plus, above)
	}
	return minus, plus, nil
}
