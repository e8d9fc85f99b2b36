package robust

// FollowedAll is how far an attempt follows the reference.
type FollowedAll struct {
	Parameters []Followed `json:"parameters"`
	WhatIfs    []Together `json:"whatIfs"`
}

// JoinFollowed puts the shares of an answer together, in the order of the shares:
// parameters and what-ifs were dealt out one by one.
func JoinFollowed(shares []FollowedAll) FollowedAll {
	var rows [][]Followed
	var together [][]Together
	for _, s := range shares {
		rows, together = append(rows, s.Parameters), append(together, s.WhatIfs)
	}
	return FollowedAll{Parameters: collect(rows), WhatIfs: collect(together)}
}

// collect takes back what was dealt out one by one.
func collect[T any](hands [][]T) []T {
	out := []T{}
	for i := 0; ; i++ {
		before := len(out)
		for _, h := range hands {
			if i < len(h) {
				out = append(out, h[i])
			}
		}
		if len(out) == before {
			return out
		}
	}
}
