package solve

import "hammerset/core/partition"

// Component is a part of a system that shares no unknown with the rest.
type Component struct {
	Vars   []int
	Groups []int
}

// Components splits some groups of the system by connectivity. Unknowns that none of them touches
// make components without groups.
func (s *System) Components(groups []int) []Component {
	parts := partition.Of(s.unknowns)
	for _, g := range groups {
		vars := s.Groups[g].Vars
		for _, v := range vars[min(1, len(vars)):] {
			parts.Join(vars[0], v)
		}
	}
	at := map[int]int{}
	var out []Component
	for v := range s.unknowns {
		r := parts.Root(v)
		k, ok := at[r]
		if !ok {
			k = len(out)
			at[r] = k
			out = append(out, Component{})
		}
		out[k].Vars = append(out[k].Vars, v)
	}
	for _, g := range groups {
		if len(s.Groups[g].Vars) == 0 {
			out = append(out, Component{Groups: []int{g}})
			continue
		}
		k := at[parts.Root(s.Groups[g].Vars[0])]
		out[k].Groups = append(out[k].Groups, g)
	}
	return out
}
