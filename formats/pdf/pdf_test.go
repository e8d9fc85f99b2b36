package pdf

import (
	"bytes"
	"testing"
	"time"

	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/formats/lettering"
)

// Whatever people write goes into a return: letters that the font lacks are boxes, and nothing
// runs over the edge.
func TestReturnedTakesAnyText(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	long := ""
	for range 400 {
		long += "x"
	}
	d := &sheet.Drawing{Title: "Sluice 🛠 閘門", Width: 420, Height: 297,
		Items: []sheet.Item{{Kind: "text", Text: "⌀9 ↧12", Points: []sheet.Point{{50, 50}}, Height: 3.5, Anchor: "start"}}}
	r := Return{Student: "Ada 👩‍🔧 Żółć", Attempt: 1, Date: time.Unix(0, 0), Comment: "Well done 🎉\x00\tمرحبا " + long,
		Points: 66.67, OutOf: 75,
		Report: &report.Report{Findings: []report.Finding{{Where: "", What: "¿", Remedy: "→"},
			{Where: "éperon", What: "x", Remedy: "y"}}},
		Marks: []report.Mark{{Label: "Sizes", Points: 33.33, OutOf: 50, Reason: "🙂"}}}
	data, err := Returned(d, f, r)
	if err != nil || !bytes.HasPrefix(data, []byte("%PDF-")) {
		t.Fatalf("%v, %d bytes", err, len(data))
	}
	if got := f.Written("a🎉b"); got != "a□b" {
		t.Errorf("a letter that is not there becomes %q", got)
	}
	for _, line := range wrap(f, long, 2.8, 100) {
		if w := f.Width(line, 2.8); w > 100 {
			t.Errorf("a line is %g mm wide", w)
		}
	}
}
