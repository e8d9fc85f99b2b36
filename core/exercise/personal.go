package exercise

import "fmt"

// Range is over which values a driving size is drawn for each student, by formulas: from Least to Most in steps of
// Step.
type Range struct {
	Parameter string `json:"parameter"`
	Least     string `json:"least"`
	Most      string `json:"most"`
	Step      string `json:"step"`
}

// checkPersonal sees that no driving size has two ranges, and that there are none where sizes cannot be drawn.
func (e *Exercise) checkPersonal() error {
	seen := map[string]bool{}
	for i, r := range e.Personal {
		at := fmt.Sprintf("/personal/%d", i)
		switch {
		case e.Kind == Assembly:
			return &Error{at, "an assembly has no personal sizes: take the ranges out"}
		case r.Parameter == "" || r.Least == "" || r.Most == "" || r.Step == "":
			return &Error{at, "a range needs a driving size, the least and the most of it, and a step"}
		case seen[r.Parameter]:
			return &Error{at + "/parameter", fmt.Sprintf("%q has a range already", r.Parameter)}
		}
		seen[r.Parameter] = true
	}
	return nil
}
