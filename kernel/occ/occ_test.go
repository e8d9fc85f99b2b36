package occ

import (
	"context"
	"os"
	"testing"
	"time"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/sheet"
	"hammerset/formats/lettering"
	"hammerset/formats/pdf"
	"hammerset/formats/svg"
)

func TestTmp(t *testing.T) {
	for _, n := range []string{"bearing-bracket", "gland-flange"} {
		data, _ := os.ReadFile("../../demo/exercises/" + n + "/reference.json")
		d, err := part.Read(data)
		if err != nil {
			t.Fatal(err)
		}
		data, _ = os.ReadFile("../../demo/exercises/" + n + "/exercise.json")
		ex, err := exercise.Read(data)
		if err != nil {
			t.Fatal(err)
		}
		c := &check.Checker{Rebuilder: part.NewRebuilder(Kernel{})}
		named, _, err := c.Load(context.Background(), check.Reference{Document: d})
		if err != nil {
			t.Fatal(err)
		}
		t0 := time.Now()
		f, _ := lettering.Load()
		dr, err := sheet.Draw(context.Background(), Kernel{}, ex, named, f)
		if err != nil {
			t.Fatal(err)
		}
		t.Log(time.Since(t0))
		l := dr.Labels(f)
		for i := range l {
			for j := range i {
				if l[i].Overlaps(l[j]) {
					t.Error("overlap", l[i], l[j])
				}
			}
		}
		p, err := pdf.Sheet(dr, f)
		os.WriteFile("/tmp/"+n+".pdf", p, 0644)
		os.WriteFile("/tmp/"+n+".svg", svg.Render(dr, f, svg.Options{}), 0644)
		if err != nil {
			t.Fatal(err)
		}
		t0 = time.Now()
		o, err := c.Run(context.Background(), ex, check.Reference{Document: d}, check.Attempt{Name: "x", Document: d}, func(string, float64) {})
		if err != nil {
			t.Fatal(err)
		}
		t.Log(time.Since(t0), o.Report.Points, o.Report.OutOf, o.Report.Pose)
		for _, c := range o.Report.Characteristics {
			t.Log(c.ID, c.NominalText, c.MeasuredText, c.Verdict, c.Reason, len(c.Places))
		}
		for _, c := range o.Report.Findings {
			t.Log(c)
		}
		for _, c := range o.Report.Sweep {
			t.Log(c)
		}
	}
}
