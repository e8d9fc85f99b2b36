package report

import (
	"encoding/json"
	"strings"
	"testing"
)

// A student's report has no name of the reference's parameters that is not in the attempt; a
// remark still finds its finding.
func TestStudentSeesNoNamesOfTheReference(t *testing.T) {
	whole := &Report{
		Sweep: []Sweep{{Parameter: "secretDepth", Match: "none", Outcome: Missing, Detail: `the model has no parameter "secretDepth", and none with its value`},
			{Parameter: "keyWidth", Match: "value", Attempt: "w", Outcome: Follows}, {Parameter: "width", Match: "name", Attempt: "width", Outcome: Follows}},
		Findings: []Finding{{Kind: "parameter-missing", Where: "parameter secretDepth", What: "the model has no such parameter", Remedy: "use secretDepth in the sizes that it drives"}},
		Marks:    []Mark{{ID: "robustness", Reason: "1 of 3 cases", Lost: []Loss{{What: "parameter secretDepth at +10 %", Points: 1}, {What: "parameter width at +10 %", Points: 1}}}},
	}
	student := whole.Student()
	out, err := json.Marshal(student)
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"secretDepth", "keyWidth"} {
		if strings.Contains(string(out), name) {
			t.Errorf("the student reads %s: %s", name, out)
		}
	}
	if !strings.Contains(string(out), "parameter width at") {
		t.Errorf("a name of the student's own is gone: %s", out)
	}
	if student.Findings[0].Key() != whole.Findings[0].Key() {
		t.Error("a remark does not find its finding in the student's report")
	}
}
