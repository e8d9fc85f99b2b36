package main

import (
	"bytes"
	"strings"
	"testing"

	"hammerset/core/prepare"
)

// What an audit found is told one on a line, with its place and what to do.
func TestAnAuditIsToldLineByLine(t *testing.T) {
	var out bytes.Buffer
	printAudit(&out, &prepare.Audited{Sizes: 4, Stated: 2, BySymmetry: 1,
		Symmetric: []prepare.Evidence{{Words: "left and right: symmetric"}},
		Findings:  []prepare.Finding{{Kind: "missing", What: "top can move along its normal", Remedy: "state the depth"}}})
	want := "missing: top can move along its normal; state the depth\ntaken from symmetry: left and right: " +
		"symmetric\n" +
		"Of 4 sizes that the drawing must give, 2 are stated and 1 taken from symmetry.\n"
	if out.String() != want {
		t.Errorf("%q", out.String())
	}
	out.Reset()
	printAudit(&out, &prepare.Audited{Sizes: 3, Stated: 3})
	if !strings.HasSuffix(out.String(), ": the sheet determines the part.\n") {
		t.Errorf("%q", out.String())
	}
}
