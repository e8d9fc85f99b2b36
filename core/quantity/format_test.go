package quantity

import (
	"math"
	"math/rand/v2"
	"testing"
)

func TestFormats(t *testing.T) {
	area := Dim{Length: 2}
	cases := []struct {
		format Format
		value  Quantity
		want   string
	}{
		{SheetFormat(Millimetre), Quantity{41.995, Length}, "42"},
		{SheetFormat(Millimetre), Quantity{41.984, Length}, "41.98"},
		{SheetFormat(Millimetre), Quantity{-0.001, Length}, "0"},
		{SheetFormat(Inch), Quantity{7.9375, Length}, "5/16"},
		{SheetFormat(Inch), Quantity{44.45, Length}, "1 3/4"},
		{SheetFormat(Inch), Quantity{8, Length}, "0.315"},
		{SheetFormat(Inch), Quantity{-6.35, Length}, "-1/4"},
		{SheetFormat(Centimetre), Quantity{8.26, Length}, "0.83"},
		{SheetFormat(Degree), Quantity{math.Pi / 7, Angle}, "25.71°"},
		{SheetFormat(Millimetre), Quantity{6, Number}, "6"},
		{MeasuredFormat(Millimetre), Quantity{41.9846, Length}, "41.985"},
		{MeasuredFormat(Inch), Quantity{8, Length}, "0.315"},
		{MeasuredFormat(Inch), Quantity{8.01, Length}, "0.3154"},
		{MeasuredFormat(Millimetre), Quantity{math.Pi / 7, Angle}, "25.714°"},
		{BoardFormat(Millimetre), Quantity{0.00012345, Length}, "0.000123"},
		{BoardFormat(Millimetre), Quantity{0.5, Number}, "0.5"},
		{FormulaFormat(Inch), Quantity{12.7, Length}, "1/2 in"},
		{FormulaFormat(Millimetre), Quantity{math.Pi / 6, Angle}, "30 deg"},
		{FormulaFormat(Metre), Quantity{1500, Length}, "1.5 m"},
		{GaugeFormat(Inch), Quantity{12.7, Length}, "0.5 in"},
		{GaugeFormat(Millimetre), Quantity{1.0 / 3, Length}, "0.333333 mm"},
		{GaugeFormat(Inch), Quantity{645.16, area}, "1 in²"},
		{GaugeFormat(Centimetre), Quantity{2500, Dim{Length: 3}}, "2.5 cm³"},
		{BoardFormat(Centimetre), Quantity{250, area}, "2.5"},
	}
	for _, c := range cases {
		if got := c.format.Text(c.value); got != c.want {
			t.Errorf("%v of %s is written %q, want %q", c.value.Value, c.value.Dim, got, c.want)
		}
	}
}

func TestFractions(t *testing.T) {
	for v, want := range map[float64]string{0.3125: "5/16", 1.5: "1 1/2", 2: "2", 63.0 / 64: "63/64", -0.25: "-1/4",
		-1e-12: "0"} {
		if got, ok := FormatFraction(v, 64); !ok || got != want {
			t.Errorf("FormatFraction(%v) = %q, %v; want %q", v, got, ok, want)
		}
	}
	if _, ok := FormatFraction(0.313, 64); ok {
		t.Error("0.313 is no fraction")
	}
}

// What is written is what is meant: read again as a formula it gives the value that Round says, and
// that lies within half of the last decimal.
func TestRoundedIsWhatIsWritten(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 8))
	for range 2000 {
		unit := []Unit{Millimetre, Centimetre, Metre, Inch}[r.IntN(4)]
		q := Quantity{math.Pow(10, 4*r.Float64()-1), Length}
		if r.IntN(3) == 0 {
			q = Quantity{2 * math.Pi * r.Float64(), Angle}
		} else if r.IntN(3) == 0 { // a fraction of an inch, among others
			q.Value = float64(r.IntN(400)) / 64 * Inch.Factor
		}
		for _, f := range []Format{SheetFormat(unit), MeasuredFormat(unit), GaugeFormat(unit)} {
			f.Symbolic = true
			text, value, half := f.Round(q)
			formula, err := Parse(text)
			if err != nil {
				t.Fatalf("%s: %v", text, err)
			}
			read, err := formula.Eval(nil)
			if err != nil || read.Dim != q.Dim || math.Abs(read.Value-value) > 1e-12*math.Max(1, value) {
				t.Errorf("%s is read as %v, and said to be %v: %v", text, read, value, err)
			}
			if math.Abs(value-q.Value) > half+1e-12*math.Max(1, q.Value) {
				t.Errorf("%v is written %s, more than half of its last decimal (%v) away", q, text, half)
			}
			if again, same, _ := f.Round(Quantity{value, q.Dim}); math.Abs(same-value) > 1e-12*math.Max(1, value) {
				t.Errorf("%s is rounded again to %s", text, again)
			}
		}
	}
}
