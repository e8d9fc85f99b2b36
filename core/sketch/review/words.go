package review

import "strings"

// say puts constraints into words.
func (r *reviewer) say(ids []string) string {
	var out []string
	for _, id := range ids {
		if k := r.d.Constraint(id); k != nil {
			out = append(out, r.called.Constraint(*k))
		}
	}
	return strings.Join(out, "; ")
}
