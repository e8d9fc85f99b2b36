package solid

import "testing"

func TestPatternsOfNames(t *testing.T) {
	for _, c := range []struct {
		pattern, name string
		fits          bool
	}{
		{"h2.*/bore", "h2.p1/bore", true}, {"h2.*/bore", "h2.p1/head", false}, {"*", "anything", true}, {"f1/round*", "f1/round(a|b)", true},
		{"f1/round*", "f10/round(a|b)", false}, {"a*b*c", "a-b-c", true}, {"a*b*c", "a-c-b", false}, {"a*a", "a", false}, {"exact", "exact", true}, {"exact", "exactly", false},
	} {
		if fits(c.pattern, c.name) != c.fits {
			t.Errorf("%q on %q", c.pattern, c.name)
		}
	}
}
