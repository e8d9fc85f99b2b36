package report

// Bulk is what a part, or an assembly, comes to wherever it stands: by it one is told as that of another exercise. The
// figures are in powers of millimetres, at density one.
type Bulk struct {
	Solids int     `json:"solids"`
	Volume float64 `json:"volume"`
	Area   float64 `json:"area"`
	// Inertia is the largest moment of inertia about the middle; nothing of an assembly, whose parts may move.
	Inertia float64 `json:"inertia,omitempty"`
}
