package report

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
)

// A student's report has no name of the reference's parameters that is not in the attempt; a
// remark still finds its finding.
func TestStudentSeesNoNamesOfTheReference(t *testing.T) {
	whole := &Report{
		Sweep: []Sweep{{Parameter: "secretDepth", Match: "none", Outcome: Missing,
			Detail: `the model has no parameter "secretDepth", and none with its value`},
			{Parameter: "keyWidth", Match: "value", Attempt: "w", Outcome: Follows},
			{Parameter: "width", Match: "name", Attempt: "width", Outcome: Follows}},
		Findings: []Finding{{Kind: "parameter-missing", Where: "parameter secretDepth",
			What: "the model has no such parameter", Remedy: "use secretDepth in the sizes that it drives"}},
		Marks: []Mark{{ID: "robustness", Reason: "1 of 3 cases",
			Lost: []Loss{{What: "parameter secretDepth at +10 %", Points: 1}, {What: "parameter width at +10 %", Points: 1}}}},
		Assembly: &OfAssembly{Varied: []Varied{{Size: "secretDepth of fork", From: "9 mm", To: "13 mm"},
			{Size: "keyWidth of eye", Attempt: "w of eye", From: "9 mm", To: "13 mm", Verdict: In}}},
	}
	student := whole.Student()
	if list := student.Assembly.Varied; len(list) != 1 || list[0].Size != "w of eye" || list[0].From != "" {
		t.Errorf("of the sizes the student reads %v", list)
	}
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

// The same thing in several attempts is that of one kind at one balloon, whatever its figures and its likely cause;
// what is at none is told apart by its words.
func TestKeysOfFindings(t *testing.T) {
	at := func(kind, characteristic, what, cause string) *Finding {
		return &Finding{Kind: kind, Characteristic: characteristic, Where: "Balloon 3", What: what, Cause: cause}
	}
	first := at("size", "d1", "The sheet states 15, the model measures 19.", "the value of balloon 9 was read")
	for _, c := range []struct {
		other *Finding
		same  bool
	}{
		{at("size", "d1", "The sheet states 12.5, the model measures −3; balloon 4 depends on it.", ""), true},
		{at("missing", "d1", "The sheet states 15, the model measures 19.", ""), false},
		{at("size", "d2", "The sheet states 15, the model measures 19.", ""), false},
		{at("size", "", "The sheet states 15, the model measures 19.", ""), false},
	} {
		if same := first.Key() == c.other.Key(); same != c.same {
			t.Errorf("%+v: the same %v", c.other, same)
		}
	}
	a := at("extra", "", "a hole of 6 at 20, 30 is too much", "")
	b := at("extra", "", "a hole of 8.5 at −4, 30 is too much", "")
	if a.Key() != b.Key() || a.Key() == at("extra", "", "a slot of 6 at 20, 30 is too much", "").Key() {
		t.Error("what is at no balloon is not told apart by its words")
	}
	if first.Was() == at("size", "d1", "other figures", "").Was() {
		t.Error("figures went into the key that it had")
	}
}

// Reports of report/1 have the numbers of faces, and are read as addresses of them.
func TestEarlierReportsAreRead(t *testing.T) {
	var r Report
	if err := json.Unmarshal([]byte(`{"hammerset":"report/1","characteristics":[{"id":"a","places":[{"verdict":"in",
	"referenceFaces":[3],"attemptFaces":[5,6]}]}]}`), &r); err != nil {
		t.Fatal(err)
	}
	place := r.Characteristics[0].Places[0]
	if !slices.Equal(place.ReferenceFaces, address.Faces([]int{3})) ||
		!slices.Equal(place.AttemptFaces, address.Faces([]int{5, 6})) {
		t.Errorf("the faces are read as %v and %v", place.ReferenceFaces, place.AttemptFaces)
	}
}
