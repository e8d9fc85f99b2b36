package inspect

import "math"

// Assign solves the linear assignment problem for a square cost matrix: it gives
// for each row the column such that the sum of costs is least. It is the
// Hungarian method with potentials (Kuhn 1955, Munkres 1957), O(n³).
func Assign(cost [][]float64) []int {
	n := len(cost)
	u, v := make([]float64, n+1), make([]float64, n+1)
	row := make([]int, n+1) // row assigned to a column, 1-based
	way := make([]int, n+1)
	for i := 1; i <= n; i++ {
		row[0] = i
		j0 := 0
		minv := make([]float64, n+1)
		used := make([]bool, n+1)
		for j := range minv {
			minv[j] = math.Inf(1)
		}
		for {
			used[j0] = true
			i0, delta, j1 := row[j0], math.Inf(1), 0
			for j := 1; j <= n; j++ {
				if used[j] {
					continue
				}
				if c := cost[i0-1][j-1] - u[i0] - v[j]; c < minv[j] {
					minv[j], way[j] = c, j0
				}
				if minv[j] < delta {
					delta, j1 = minv[j], j
				}
			}
			for j := 0; j <= n; j++ {
				if used[j] {
					u[row[j]] += delta
					v[j] -= delta
				} else {
					minv[j] -= delta
				}
			}
			j0 = j1
			if row[j0] == 0 {
				break
			}
		}
		for j0 != 0 {
			j1 := way[j0]
			row[j0] = row[j1]
			j0 = j1
		}
	}
	out := make([]int, n)
	for j := 1; j <= n; j++ {
		out[row[j]-1] = j - 1
	}
	return out
}
