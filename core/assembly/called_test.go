package assembly

import "testing"

// Names that programs give say nothing of a part, with whatever number behind them; what a person would call it does.
func TestCalled(t *testing.T) {
	for name, says := range map[string]bool{"fork": true,
		"M8 bolt": true, "Welle 2": true, "part": false, "Part 12": false,
		"body-3": false, "Solid_004": false, "=>[0:1:1:2]": false, "Open CASCADE STEP translator 7.6 1": false, "17": false,
		"component (2)": false, "partition": true, "bodywork": true, " imported 1 ": false, "modelled arm": true} {
		if p := (&Part{Name: name}); p.Called() != says {
			t.Errorf("%q says something: %t", name, p.Called())
		}
	}
}
