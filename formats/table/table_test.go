package table

import "testing"

func TestSafe(t *testing.T) {
	for cell, want := range map[string]string{
		"": "", "Ada": "Ada", "12.5": "12.5", "-3": "-3", "+4e2": "+4e2", "=1+1": "'=1+1",
		"+cmd|' /C calc'!A0": "'+cmd|' /C calc'!A0", "-2+3": "'-2+3", "@SUM(A1)": "'@SUM(A1)", "\t=1": "'\t=1",
		"reach/2": "reach/2", "-5 mm": "'-5 mm", "'s": "'s",
	} {
		got := Safe([]string{cell})[0]
		if got != want {
			t.Errorf("%q is written %q, want %q", cell, got, want)
		}
		if back := Plain(got); back != cell {
			t.Errorf("%q comes back as %q", cell, back)
		}
	}
}
