package exercise

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"
	"strconv"
	"strings"
)

// Measured stands for all of an exercise that a check depends on, with the content of its reference: exercises that
// share it have the same reports and the same atlas. Where a text stands on the sheet, what the title block says and
// what counts how much are no part of it.
func (e *Exercise) Measured(reference []byte) (string, error) {
	list := Checked(e.Characteristics)
	file := sha256.Sum256(reference)
	body, err := json.Marshal(struct {
		Hammerset, Kind, Unit, Density, Material string
		Solids                                   int
		General                                  Tolerance
		Characteristics                          []Characteristic
		WhatIfs                                  []WhatIf
		WhatIfFiles                              bool
		Loose                                    []Loose
		Reference                                string
		Assembly                                 *OfAssembly `json:",omitempty"`
	}{e.Hammerset, e.Kind, e.Unit, e.Density, e.Material, e.Solids, e.General, list, e.WhatIfs, e.WhatIfFiles,
		e.Loose, hex.EncodeToString(file[:]), e.Assembly.measured()})
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:]), nil
}

// Checked are characteristics with only that of them on which a check depends: not what they count for, nor how the
// sheet prints their tolerances.
func Checked(list []Characteristic) []Characteristic {
	out := slices.Clone(list)
	for i := range out {
		c := &out[i]
		c.Weight, c.Free, c.Datums = 0, false, nil
		if c.Tolerance != nil {
			t := *c.Tolerance
			t.Printed = ""
			c.Tolerance = &t
		}
	}
	return out
}

// NextRevision is the revision index after another one: A to Z and AA, without I and O, which are taken for figures
// (common practice, no source; ISO 7200 leaves the form open). What is no such index gets one counted up or appended.
func NextRevision(index string) string {
	const letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
	if index == "" {
		return letters[:1]
	}
	if n, err := strconv.Atoi(index); err == nil && n >= 0 {
		return strconv.Itoa(n + 1)
	}
	head, last := index[:len(index)-1], index[len(index)-1]
	switch k := strings.IndexByte(letters, last); {
	case k < 0:
		return index + "-A"
	case k == len(letters)-1:
		if head == "" {
			return "AA"
		}
		return NextRevision(head) + "A"
	default:
		return head + letters[k+1:k+2]
	}
}
