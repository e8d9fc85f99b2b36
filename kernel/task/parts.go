package task

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"hammerset/core/report"
)

// PartReport is the report of the check of a part of an assembly by itself, or why the part cannot be checked.
type PartReport struct {
	Report json.RawMessage `json:"report,omitempty"`
	Error  *Error          `json:"error,omitempty"`
}

// PartKey is by what the report of the check of a part is known: the exercise and its reference, what was handed in,
// and the checker.
func (r *Request) PartKey() string {
	h := sha256.New()
	for _, data := range [][]byte{[]byte(report.Checker), r.Exercise, r.Reference, r.Atlas, r.File} {
		_, _ = fmt.Fprintf(h, "%d ", len(data)) // which cannot fail
		_, _ = h.Write(data)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// FirstError tells that other tasks must be done first.
type FirstError struct{ Tasks []*Request }

func (e *FirstError) Error() string {
	return fmt.Sprintf("%d parts must be checked first", len(e.Tasks))
}
