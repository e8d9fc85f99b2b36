// Package assembly has assemblies: parts that are joined, solved, moved and understood. It knows parts by
// their features alone, which are plain geometry, and asks no kernel. Lengths are in millimetres and angles in
// radians, but for formulas.
package assembly

import (
	"cmp"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Version is the version of documents that this package reads and writes, and MediaType its media type.
const (
	Version   = "assembly/1"
	MediaType = "application/vnd.hammerset.assembly+json"
)

// Bounds of an assembly.
const (
	MaxComponents = 300
	MaxParts      = 60
)

// Document is an assembly as it is stored and exchanged.
type Document struct {
	Hammerset  string               `json:"hammerset"`
	Name       string               `json:"name"`
	Unit       string               `json:"unit"`
	Note       string               `json:"note,omitempty"`
	Parameters []quantity.Parameter `json:"parameters,omitempty"`
	Parts      []Part               `json:"parts"`
	Components []Component          `json:"components"`
	Groups     []Group              `json:"groups,omitempty"` // of a document that was laid flat
	Joints     []Joint              `json:"joints"`
	Couplings  []Coupling           `json:"couplings,omitempty"`
	Drives     []Driving            `json:"drives,omitempty"`
	Traces     []Trace              `json:"traces,omitempty"`
	// Prints tell features of parts from STEP files, by their addresses.
	Prints map[string]Print `json:"prints,omitempty"`
	// Apart is how far components are drawn apart, where somebody has set that; the others go their own way.
	Apart []Apart `json:"apart,omitempty"`
}

// Part is what components are instances of: a file that comes along, held by its SHA-256. Of a model document
// Values sets sizes by formulas in the assembly's parameters, and Solid picks one of several solids.
type Part struct {
	ID       string            `json:"id"`
	Name     string            `json:"name"`
	File     string            `json:"file"`
	SHA256   string            `json:"sha256"`
	Solid    string            `json:"solid,omitempty"`
	Values   map[string]string `json:"values,omitempty"`
	Number   string            `json:"number,omitempty"`
	Material string            `json:"material,omitempty"`
	Density  string            `json:"density,omitempty"` // a formula in kg/m³
	Colour   string            `json:"colour,omitempty"`  // #rrggbb
	// Soft parts (springs, rings) give way: they are left out of collisions.
	Soft bool `json:"soft,omitempty"`
}

// Component is an instance of a part. Its id never changes; a pinned one stays where it is.
type Component struct {
	ID     string     `json:"id"`
	Name   string     `json:"name"`
	Part   string     `json:"part"`
	Pinned bool       `json:"pinned,omitempty"`
	Pose   rigid.Pose `json:"pose"`
	// Moving tells that a component which is an assembly itself moves in itself as its own joints let it; else it is
	// rigid. Inner are the poses in it then, by component, and Turns the whole turns of its joints (Joint.State).
	Moving bool                  `json:"moving,omitempty"`
	Inner  map[string]rigid.Pose `json:"inner,omitempty"`
	Turns  map[string]int        `json:"turns,omitempty"`
	// In is the group that it is in.
	In string `json:"in,omitempty"`

	with string // of one that is laid flat: the component that it is held to as it stands
}

// Apart is how far a component, or one that is nested in it, goes from where it stands when the assembly is drawn
// apart, in mm.
type Apart struct {
	Component string    `json:"component"`
	By        solid.Vec `json:"by"`
}

// Driving is over which range a joint is driven, by formulas: a turn, or where the joint does not turn a slide.
type Driving struct {
	Joint string `json:"joint"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// Joint holds a feature of one component to a feature of another. Offset, Angle, Lead and Distance are formulas,
// where the kind of joint has them.
type Joint struct {
	ID       string      `json:"id"`
	Name     string      `json:"name,omitempty"`
	Kind     string      `json:"kind"`
	A        address.Ref `json:"a"`
	B        address.Ref `json:"b"`
	Sense    string      `json:"sense,omitempty"` // of the directions of the two: same or opposed
	Offset   string      `json:"offset,omitempty"`
	Angle    string      `json:"angle,omitempty"`
	Lead     string      `json:"lead,omitempty"`
	Distance string      `json:"distance,omitempty"`
	// Fit is that of a shaft in a bore, as H7/p6 (ISO 286): it says by how much the shaft may be larger.
	Fit    string  `json:"fit,omitempty"`
	Limits *Limits `json:"limits,omitempty"`
	// State is how many whole turns the joint has made beyond what its pose shows: gears, threads and belts cannot be
	// told from a pose.
	State int  `json:"state,omitempty"`
	Off   bool `json:"off,omitempty"` // does not count
}

// Senses of joints.
const (
	Same    = "same"
	Opposed = "opposed"
)

// Fault is what is wrong with a document, at a JSON pointer, with what to do.
type Fault struct{ Pointer, What, Remedy string }

func (f *Fault) Error() string { return f.Pointer + ": " + f.What + "; " + f.Remedy }

// Read reads a document that fits its schema and sees that everything in it refers to something.
func Read(data []byte) (*Document, error) {
	var d Document
	if err := json.Unmarshal(data, &d); err != nil {
		return nil, fmt.Errorf("the assembly is not readable: %w", err)
	}
	return &d, d.Check()
}

// Check sees that everything in the document refers to something. The error is a *Fault.
func (d *Document) Check() error {
	if d.Hammerset != Version {
		return &Fault{"/hammerset", fmt.Sprintf("this is %q", d.Hammerset), "this program reads " + Version}
	}
	if len(d.Components) > MaxComponents {
		return &Fault{"/components", fmt.Sprintf("there are %d components", len(d.Components)),
			fmt.Sprintf("at most %d are taken: put some of them into an assembly of their own", MaxComponents)}
	}
	if len(d.Parts) > MaxParts {
		return &Fault{"/parts", fmt.Sprintf("there are %d parts", len(d.Parts)), fmt.Sprintf("at most %d are taken",
			MaxParts)}
	}
	if _, err := d.Table(nil); err != nil {
		return &Fault{"/parameters", err.Error(), "put this parameter right"}
	}
	parts, components := map[string]bool{}, map[string]bool{}
	for i, p := range d.Parts {
		if err := once(parts, p.ID, fmt.Sprintf("/parts/%d/id", i), "part"); err != nil {
			return err
		}
	}
	for i, c := range d.Components {
		at := fmt.Sprintf("/components/%d", i)
		if err := once(components, c.ID, at+"/id", "component"); err != nil {
			return err
		}
		if strings.ContainsAny(c.ID, "#/") {
			return &Fault{at + "/id", fmt.Sprintf("the id %q has a # or a /", c.ID), "addresses need these: write it without"}
		}
		if !parts[c.Part] {
			return &Fault{at + "/part", fmt.Sprintf("there is no part %q", c.Part), "name a part of this document"}
		}
	}
	if err := d.checkGroups(); err != nil {
		return err
	}
	return d.checkTies(components)
}

// checkTies sees to joints, couplings and traces.
func (d *Document) checkTies(components map[string]bool) error {
	joints, couplings, traces := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for i := range d.Joints {
		at := fmt.Sprintf("/joints/%d", i)
		if err := once(joints, d.Joints[i].ID, at+"/id", "joint"); err != nil {
			return err
		}
		if err := d.Joints[i].check(at, components); err != nil {
			return err
		}
	}
	for i := range d.Couplings {
		at := fmt.Sprintf("/couplings/%d", i)
		if err := once(couplings, d.Couplings[i].ID, at+"/id", "coupling"); err != nil {
			return err
		}
		if err := d.Couplings[i].check(at, d); err != nil {
			return err
		}
	}
	driven := map[string]bool{}
	for i, x := range d.Drives {
		at := fmt.Sprintf("/drives/%d", i)
		if driven[x.Joint] {
			return &Fault{at + "/joint", fmt.Sprintf("the joint %q is driven over two ranges", x.Joint), "leave one of them out"}
		}
		driven[x.Joint] = true
		j, ok := d.Joint(x.Joint)
		if !ok {
			return &Fault{at + "/joint", fmt.Sprintf("there is no joint %q", x.Joint), "name a joint of this assembly"}
		}
		if kind, _ := KindOf(j.Kind); len(kind.motions) == 0 {
			return &Fault{at + "/joint", fmt.Sprintf("a joint of the kind %s cannot be driven", j.Kind), "leave it out"}
		}
	}
	for i, t := range d.Traces {
		at := fmt.Sprintf("/traces/%d", i)
		if err := once(traces, t.ID, at+"/id", "trace"); err != nil {
			return err
		}
		if !components[Root(t.Of.Component)] {
			return &Fault{at + "/of", fmt.Sprintf("%q is of no component of this assembly", t.Of), "write it as c2#NAME, with " +
				"the id of a component before the #"}
		}
	}
	apart := map[string]bool{}
	for i, a := range d.Apart {
		at := fmt.Sprintf("/apart/%d/component", i)
		if err := once(apart, a.Component, at, "drawn position"); err != nil {
			return err
		}
		if !components[Root(a.Component)] {
			return &Fault{at, fmt.Sprintf("there is no component %q", a.Component), "name a component of this assembly"}
		}
	}
	return nil
}

func once(seen map[string]bool, id, pointer, what string) error {
	if seen[id] {
		return &Fault{pointer, fmt.Sprintf("there are two %ss %q", what, id), "give one of them another id"}
	}
	seen[id] = true
	return nil
}

// check sees that a joint is of a kind that there is, joins two components, and has the sizes of its kind.
func (j *Joint) check(at string, components map[string]bool) error {
	kind, ok := KindOf(j.Kind)
	if !ok {
		return &Fault{at + "/kind", fmt.Sprintf("there is no kind of joint %q", j.Kind), "the kinds are " +
			strings.Join(KindNames(), ", ")}
	}
	for side, r := range map[string]address.Ref{"a": j.A, "b": j.B} {
		if r.Component == "" || !components[Root(r.Component)] {
			return &Fault{at + "/" + side, fmt.Sprintf("%q is of no component of this assembly", r), "write it as c2#NAME, " +
				"with the id of a component before the #"}
		}
	}
	if j.A.Component == j.B.Component {
		return &Fault{at, fmt.Sprintf("it joins the component %s to itself", j.A.Component), "join it to another one"}
	}
	if _, _, ok := Fit(j.Fit); j.Fit != "" && !ok {
		return &Fault{at + "/fit", fmt.Sprintf("%q is no fit of ISO 286", j.Fit), "write the hole and the shaft, as H7/p6"}
	}
	if j.Sense != "" && j.Sense != Same && j.Sense != Opposed {
		return &Fault{at + "/sense", fmt.Sprintf("there is no sense %q", j.Sense), "it is same or opposed"}
	}
	for _, size := range j.Sizes() {
		has := kind.has(size.Name)
		if size.Text != "" && !has {
			return &Fault{at + "/" + size.Name, fmt.Sprintf("a joint of the kind %s has no %s", kind.Name, size.Name),
				"leave it out"}
		}
		if size.Text == "" && has && size.Needed {
			return &Fault{at + "/" + size.Name, fmt.Sprintf("a joint of the kind %s needs its %s", kind.Name, size.Name),
				"write a value or a formula"}
		}
	}
	if j.Limits != nil {
		for _, l := range []struct {
			name   string
			motion motion
			is     *Limit
		}{{"turn", turning, j.Limits.Turn}, {"slide", sliding, j.Limits.Slide}} {
			if l.is != nil && !slices.Contains(kind.motions, l.motion) {
				return &Fault{at + "/limits/" + l.name, fmt.Sprintf("a joint of the kind %s has no %s", kind.Name, l.name),
					"leave it out"}
			}
		}
	}
	return nil
}

// Fit reads a fit: the tolerance classes of hole and shaft.
func Fit(text string) (hole, shaft string, ok bool) {
	m := fitRule.FindStringSubmatch(text)
	if m == nil {
		return "", "", false
	}
	return m[1], m[2], true
}

var fitRule = regexp.MustCompile(`^([A-Z]{1,2}\d{1,2})/([a-z]{1,2}\d{1,2})$`)

// Size is one of the sizes that joints can have.
type Size struct {
	Name, Text string
	Dim        quantity.Dim
	Needed     bool // where the kind has it; else it is 0
}

// Sizes lists the sizes of a joint, those that it does not have among them.
func (j *Joint) Sizes() []Size {
	return []Size{
		{"offset", j.Offset, quantity.Length, false}, {"angle", j.Angle, quantity.Angle, false},
		{"lead", j.Lead, quantity.Length, true}, {"distance", j.Distance, quantity.Length, true},
	}
}

// SetSize writes one of the sizes of a joint.
func (j *Joint) SetSize(name, text string) {
	*map[string]*string{"offset": &j.Offset, "angle": &j.Angle, "lead": &j.Lead, "distance": &j.Distance}[name] = text
}

// TitleOf is what a joint is called: by its name, or else by its kind and the two components, of what is nested by the
// assemblies that it is nested in.
func (d *Document) TitleOf(j *Joint) string {
	if j.Name != "" {
		return j.Name
	}
	title := j.Kind
	for i, r := range []address.Ref{j.A, j.B} {
		c, ok := d.Component(r.Component)
		if !ok {
			c, ok = d.Component(Root(r.Component))
		}
		if ok {
			title += []string{" between ", " and "}[i] + c.Title()
		}
	}
	return title
}

// Title is what a component is called.
func (c *Component) Title() string {
	if c.Name != "" {
		return c.Name
	}
	return c.ID
}

// Joint finds a joint by its id.
func (d *Document) Joint(id string) (*Joint, bool) {
	for i := range d.Joints {
		if d.Joints[i].ID == id {
			return &d.Joints[i], true
		}
	}
	return nil, false
}

// Component finds a component by its id.
func (d *Document) Component(id string) (*Component, bool) {
	for i := range d.Components {
		if d.Components[i].ID == id {
			return &d.Components[i], true
		}
	}
	return nil, false
}

// Part finds a part by its id.
func (d *Document) Part(id string) (*Part, bool) {
	for i := range d.Parts {
		if d.Parts[i].ID == id {
			return &d.Parts[i], true
		}
	}
	return nil, false
}

// Renew puts another file in the place of that of a part: all its components are of that then, and what the document
// says of the part stays.
func (d *Document) Renew(part string, now *Part) {
	i := slices.IndexFunc(d.Parts, func(p Part) bool { return p.ID == part })
	if i < 0 {
		return
	}
	if _, have := d.Part(now.ID); have && now.ID != part {
		d.Parts = slices.Delete(d.Parts, i, i+1)
	} else {
		d.Parts[i].ID, d.Parts[i].File, d.Parts[i].SHA256, d.Parts[i].Solid = now.ID, now.File, now.SHA256, now.Solid
	}
	for k := range d.Components {
		if d.Components[k].Part == part {
			d.Components[k].Part = now.ID
		}
	}
}

// Table evaluates the parameters, some of them set to other values.
func (d *Document) Table(set map[string]quantity.Quantity) (*quantity.Table, error) {
	unit, err := quantity.LengthUnit(d.Unit)
	if err != nil {
		return nil, err
	}
	return quantity.Evaluate(d.Parameters, unit, set)
}

// With evaluates the parameters, some of them set by texts: plain numbers and formulas take the dimension that the
// parameter has in the document.
func (d *Document) With(set map[string]string) (*quantity.Table, error) {
	values, err := d.Settings(set)
	if err != nil {
		return nil, err
	}
	return d.Table(values)
}

// Settings reads texts that parameters are set to.
func (d *Document) Settings(set map[string]string) (map[string]quantity.Quantity, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	return table.Settings(set)
}

// Set is the document with some of its parameters at other values. The document itself stays as it is.
func (d *Document) Set(values map[string]quantity.Quantity) *Document {
	out := *d
	out.Parameters = slices.Clone(d.Parameters)
	for i := range out.Parameters {
		if v, ok := values[out.Parameters[i].Name]; ok {
			out.Parameters[i].Formula = v.Formula()
		}
	}
	return &out
}

// At is the part at the sizes that the parameters of the assembly give it: two are the same shape where it is the same.
func (p *Part) At(table *quantity.Table) (string, error) {
	sizes, err := p.sizes(table)
	return p.ID + sizes, err
}

// Shape is what the part is made of and at which sizes: it is the same for equal parts of several assemblies.
func (p *Part) Shape(table *quantity.Table) (string, error) {
	sizes, err := p.sizes(table)
	of := cmp.Or(p.SHA256, p.ID)
	if p.Solid != "" {
		of += "#" + p.Solid
	}
	return of + sizes, err
}

// sizes are the sizes that the part is given, as a text.
func (p *Part) sizes(table *quantity.Table) (string, error) {
	values, err := p.given(table)
	out := ""
	for _, name := range quantity.Names(p.Values) {
		out += " " + name + "=" + values[name].Formula()
	}
	return out, err
}

// given works out the sizes that the part is given.
func (p *Part) given(table *quantity.Table) (map[string]quantity.Quantity, error) {
	out := map[string]quantity.Quantity{}
	for name, text := range p.Values {
		f, err := quantity.Parse(text)
		if err != nil {
			return nil, fmt.Errorf("the size %s of the part %s: %w", name, p.Name, err)
		}
		if out[name], err = f.Eval(table.Lookup); err != nil {
			return nil, fmt.Errorf("the size %s of the part %s: %w", name, p.Name, err)
		}
	}
	return out, nil
}
