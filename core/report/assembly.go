package report

import (
	"slices"

	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// OfAssembly is what a report says of an attempt at an assembly beside the characteristics of the whole. Components go
// by the ids that they have in the reference, and by their names in the attempt.
type OfAssembly struct {
	Items      []Item      `json:"items"`
	Components []Component `json:"components"`
	Joints     []Joint     `json:"joints"`
	Mobility   *Mobility   `json:"mobility,omitempty"`
	Collisions []Collision `json:"collisions"`
	Motion     []Motion    `json:"motion"`
	Varied     []Varied    `json:"varied"`
	// Single: one part was handed in by itself, and the others have not been yet.
	Single bool `json:"single,omitempty"`
	// Bulk is what its components come to together.
	Bulk *Bulk `json:"bulk,omitempty"`
}

// student is what a student may see of it: not where the parts of the reference would lie, of its sizes none but what
// the student's own are called, and of each part what its own report shows.
func (a *OfAssembly) student() *OfAssembly {
	if a == nil {
		return nil
	}
	out := *a
	out.Components, out.Items = slices.Clone(a.Components), slices.Clone(a.Items)
	for i := range out.Components {
		out.Components[i].Pose = nil
	}
	out.Varied = []Varied{}
	for _, x := range a.Varied {
		if x.Verdict != "" {
			x.Size, x.From, x.To = x.Attempt, "", ""
			out.Varied = append(out.Varied, x)
		}
	}
	for i := range out.Items {
		x := &out.Items[i]
		x.Variants = slices.Clone(x.Variants)
		for k := range x.Variants {
			if v := &x.Variants[k]; v.Report != nil {
				v.Report = v.Report.Student()
			}
		}
	}
	return &out
}

// OfItems are the characteristics of the parts of all items, each under the number of its item and its own id, as 2/d1;
// of several variants of an item those of the worst.
func (a *OfAssembly) OfItems() []Characteristic {
	worse := map[Verdict]int{In: 0, Ask: 1, Out: 2, NotFound: 3}
	var out []Characteristic
	for _, x := range a.Items {
		at := map[string]int{}
		for _, v := range x.Variants {
			if v.Report == nil {
				continue
			}
			for _, c := range v.Report.Characteristics {
				c.ID, c.Item, c.Label = x.Number+"/"+c.ID, x.Number, x.Name+": "+c.Label
				c.Places = slices.Clone(c.Places)
				for k := range c.Places { // faces of the part's own file, and not of the assembly's
					c.Places[k].ReferenceFaces, c.Places[k].AttemptFaces = nil, nil
				}
				if i, have := at[c.ID]; !have {
					at[c.ID] = len(out)
					out = append(out, c)
				} else if worse[c.Verdict] > worse[out[i].Verdict] {
					out[i] = c
				}
			}
		}
	}
	return out
}

// Item is a line of the parts list: how many there should be and are, and what they are like. Variants are the
// different solids that stand for it (three good bolts and a long one are two).
type Item struct {
	Number   string    `json:"number"`
	Name     string    `json:"name"`
	Part     string    `json:"part"` // in the reference
	Given    bool      `json:"given,omitempty"`
	Wanted   int       `json:"wanted"`
	Found    int       `json:"found"`
	Weight   float64   `json:"weight"`
	Verdict  Verdict   `json:"verdict"`
	Reason   string    `json:"reason,omitempty"`
	Variants []Variant `json:"variants"`
}

// Variant is one solid that stands for an item, with the report of the check of it as a part. Without one it is Same:
// the very part; or it is not, and no exercise says what is measured on it.
type Variant struct {
	Components []string `json:"components"` // of the reference
	Names      []string `json:"names"`      // in the attempt
	Same       bool     `json:"same,omitempty"`
	Mirrored   bool     `json:"mirrored,omitempty"`
	Report     *Report  `json:"report,omitempty"`
	// Unusable says why the part could not be checked by itself.
	Unusable string `json:"unusable,omitempty"`
}

// Stands of components.
const (
	InPlace   = "in place"
	Displaced = "displaced" // its joints to others do not hold
	NotThere  = "missing"
	NotYet    = "not yet handed in"
	TooMany   = "too many"
	Twice     = "two in one place"
	WrongPart = "the wrong part"
	Unknown   = "unknown" // it is none of the items
)

// Component is one of the reference with what stands for it, or one of the attempt that stands for none.
type Component struct {
	ID     string `json:"id,omitempty"` // in the reference; empty of what is too many
	Item   string `json:"item,omitempty"`
	Name   string `json:"name"`
	Stands string `json:"stands"`
	// Attempt is what stands for it, by its id and name there, and Pose where the reference's part lies in the attempt.
	Attempt string      `json:"attempt,omitempty"`
	Called  string      `json:"called,omitempty"`
	Pose    *rigid.Pose `json:"pose,omitempty"`
}

// Joint is a joint of the reference as it is found in the attempt. Freedom is what it leaves there and should leave, in
// words; empty where the attempt brings no joints.
type Joint struct {
	ID         string      `json:"id"`
	Name       string      `json:"name"`
	Kind       string      `json:"kind"`
	Of         [2]string   `json:"of"` // components of the reference
	Titles     [2]string   `json:"titles"`
	Conditions []Condition `json:"conditions"`
	// Placed is the verdict on the conditions, and Verdict that on what the joint leaves free; none where the attempt has
	// no joints and that does not count.
	Placed  Verdict `json:"placed"`
	Verdict Verdict `json:"verdict,omitempty"`
	Wanted  string  `json:"wanted,omitempty"`
	Found   string  `json:"found,omitempty"`
	Reason  string  `json:"reason,omitempty"`
	// Direct is what the attempt's own joints between the two leave by themselves, without the rest of the mechanism;
	// empty where there are none.
	Direct string `json:"direct,omitempty"`
	// Behind: what it leaves is out for a reason that is told at another joint.
	Behind bool `json:"behind,omitempty"`
	// ChargedIn is the part of the rubric in which what is behind its conditions counts (see Characteristic).
	ChargedIn string `json:"chargedIn,omitempty"`
}

// Condition is one thing that a joint asks for: by how much it is off, in mm or degrees.
type Condition struct {
	What      string  `json:"what"`
	Deviation float64 `json:"deviation"`
	Text      string  `json:"text"`
	Limit     float64 `json:"limit"`
	Angle     bool    `json:"angle,omitempty"`
	Verdict   Verdict `json:"verdict"`
}

// Mobility is how many freedoms the mechanism should have and has; what is idle (a round part turning about its own
// axis) is not counted.
type Mobility struct {
	Wanted  int     `json:"wanted"`
	Found   int     `json:"found"`
	Verdict Verdict `json:"verdict"`
	Reason  string  `json:"reason,omitempty"`
}

// Collision is two components in one another: volume in mm³, depth in mm.
type Collision struct {
	Of      [2]string `json:"of"`
	Titles  [2]string `json:"titles"`
	Volume  float64   `json:"volume"`
	Depth   float64   `json:"depth"`
	At      solid.Vec `json:"at"`
	What    string    `json:"what"`
	Verdict Verdict   `json:"verdict"` // Out, or Ask where it could not be worked out
	// ChargedIn is the part of the rubric in which what is behind it counts (see Characteristic).
	ChargedIn string `json:"chargedIn,omitempty"`
	// Drive is the joint at whose drive they meet, where they do not as they stand; From is where it begins, in degrees
	// or mm.
	Drive string  `json:"drive,omitempty"`
	From  float64 `json:"from,omitempty"`
}

// Motion is a drive of the reference, carried out on the parts of the attempt: from where to where it should go and how
// far it went, in degrees or mm.
type Motion struct {
	Joint   string  `json:"joint"`
	Name    string  `json:"name"`
	Turns   bool    `json:"turns"`
	From    float64 `json:"from"`
	To      float64 `json:"to"`
	Reached float64 `json:"reached"`
	Verdict Verdict `json:"verdict"`
	Reason  string  `json:"reason,omitempty"`
	// ChargedIn is the part of the rubric in which what is behind it counts (see Characteristic).
	ChargedIn string `json:"chargedIn,omitempty"`
}

// Varied is a driving size of the reference, varied in the attempt from one end of its interval to the other: nothing
// may happen to the attempt earlier than to the reference.
type Varied struct {
	Size    string `json:"size"`
	Item    string `json:"item,omitempty"`
	Attempt string `json:"attempt,omitempty"` // the attempt's own size
	From    string `json:"from"`
	To      string `json:"to"`
	// Verdict is empty where the attempt has no such size, which does not count.
	Verdict Verdict `json:"verdict,omitempty"`
	// At is where something happens, Kind and Reason what.
	At     string `json:"at,omitempty"`
	Kind   string `json:"kind,omitempty"`
	Reason string `json:"reason,omitempty"`
	Remedy string `json:"remedy,omitempty"`
	// ChargedIn is the part of the rubric in which what is behind it counts (see Characteristic).
	ChargedIn string `json:"chargedIn,omitempty"`
}
