package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/vary"
	"hammerset/core/modeller"
	"hammerset/core/quantity"
	"hammerset/formats/documents"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

// assembling is one run of the command.
type assembling struct {
	set                    []string
	mobility, interference bool
	vary                   bool
	drive                  string
	trace                  []string
	step                   string // the file that is written
	asJSON                 bool
	say                    io.Writer

	sound bool
	table *quantity.Table
	as    quantity.Format
}

// assessed is what the command has to say of an assembly.
type assessed struct {
	Name      string             `json:"name"`
	Solved    assembly.Solved    `json:"solved"`
	Lost      []assembly.Lost    `json:"lost,omitempty"`
	Items     []assembly.Item    `json:"items"`
	Whole     assembly.Whole     `json:"whole"`
	Mobility  *assembly.Mobility `json:"mobility,omitempty"`
	Pairs     []clash.Pair       `json:"pairs,omitempty"`
	Motion    *assembly.Table    `json:"motion,omitempty"`
	StoppedAt *float64           `json:"stoppedAt,omitempty"`
	// Swept are collisions on the way of a drive, in degrees or in the unit of the assembly.
	Swept  []clash.Swept `json:"swept,omitempty"`
	Varied *vary.Varied  `json:"varied,omitempty"`
}

// recorded is how many equal steps of a drive are told.
const recorded = 72

func assembleCommand() *cobra.Command {
	a := &assembling{say: os.Stdout}
	cmd := &cobra.Command{Use: "assemble BUNDLE", Short: "Put an assembly together and say how it holds and moves",
		Long: "Read a STEP file, or the bundle of an assembly (a folder or zip with " + documents.AssemblyFile +
			" and the files of its parts), " +
			"bring the components to where the joints hold, and say what is to say.\nExit code 0: sound. 1: something to say. " +
			"2: could not.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(a.trace) > 0 && a.drive == "" {
				return fmt.Errorf("--trace goes with --drive: a point draws something while a joint is driven")
			}
			p, err := kernels(1, 10*time.Minute, nil)
			if err != nil {
				return err
			}
			defer p.Close()
			if err := a.run(cmd.Context(), p, args[0]); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			if !a.sound {
				return exit{1}
			}
			return nil
		}}
	cmd.Flags().StringArrayVar(&a.set, "set", nil, "set a parameter of the assembly: name=value (repeat for more)")
	cmd.Flags().BoolVar(&a.mobility, "mobility", false, "say what can move, and what is held more than once")
	cmd.Flags().StringVar(&a.drive, "drive", "", "drive a joint: joint=from..to, or the joint alone over the range "+
		"that the "+
		"assembly has for it, in degrees or in the unit of the "+
		"assembly")
	cmd.Flags().StringArrayVar(&a.trace, "trace", nil, "with --drive: where a feature of a component goes, "+
		"component/feature (repeat for more); traces of the assembly are told as well")
	cmd.Flags().BoolVar(&a.interference, "interference", false, "look for collisions and contacts where it stands")
	cmd.Flags().BoolVar(&a.vary, "vary", false, "vary every driving size over its interval, and say where a joint "+
		"breaks, "+
		"the mobility changes or a collision begins")
	cmd.Flags().StringVar(&a.step, "step", "", "write the assembly as it stands, after a drive at its end, as STEP "+
		"(AP242) to "+
		"this file")
	cmd.Flags().BoolVar(&a.asJSON, "json", false, "print everything as JSON")
	return cmd
}

func (a *assembling) run(ctx context.Context, p *pool.Pool, name string) error {
	bundle, err := a.read(ctx, p, name)
	if err != nil {
		return err
	}
	d := bundle.Document
	values := map[string]string{}
	for _, s := range a.set {
		key, value, ok := strings.Cut(s, "=")
		if !ok {
			return fmt.Errorf("--set %s: write name=value", s)
		}
		values[strings.TrimSpace(key)] = value
	}
	set, err := d.Settings(values)
	if err != nil {
		return err
	}
	if a.table, err = d.Table(set); err != nil {
		return err
	}
	a.as = quantity.BoardFormat(a.table.Unit())
	shapes, err := partShapes(ctx, p, bundle, values)
	if err != nil {
		return err
	}
	m, err := assembly.New(d, shapes, set)
	if err != nil {
		return err
	}
	out := assessed{Name: d.Name, Lost: m.Lost(), Solved: m.Solve()}
	a.sound = out.Solved.Holds && len(out.Solved.Flipped) == 0 && len(out.Lost) == 0
	if out.Items, out.Whole, err = m.PartsList(a.table); err != nil {
		return err
	}
	if err := a.look(ctx, p, m, bundle, set, &out); err != nil {
		return err
	}
	if a.asJSON {
		enc := json.NewEncoder(a.say)
		enc.SetIndent("", "  ")
		return enc.Encode(out)
	}
	return a.print(m, &out)
}

// look finds out what was asked for of an assembly that is put together.
func (a *assembling) look(ctx context.Context, p *pool.Pool, m *assembly.Mechanism, bundle *documents.Assembled,
	set map[string]quantity.Quantity, out *assessed) (err error) {
	if a.mobility {
		mobility := m.Mobility()
		out.Mobility = &mobility
	}
	if a.interference {
		if out.Pairs, err = clashes(ctx, p, m.Placed().Set(set), bundle.Files); err != nil {
			return err
		}
		for _, pair := range out.Pairs {
			a.sound = a.sound && pair.Kind != clash.Collision && pair.Kind != clash.Ask
		}
	}
	if a.vary {
		if out.Varied, err = varied(ctx, p, m.Placed().Set(set), bundle.Files); err != nil {
			return err
		}
		for _, r := range out.Varied.Repeats {
			a.sound = a.sound && !r.Touchy
		}
		a.sound = a.sound && len(out.Varied.Found) == 0
	}
	if a.drive != "" {
		if err := a.move(m, out); err != nil {
			return err
		}
		if a.interference {
			if err := a.sweep(ctx, m.Document, m.Shapes, set, out); err != nil {
				return err
			}
		}
	}
	if a.step != "" {
		if err := a.write(ctx, p, m.Placed().Set(set), bundle.Files); err != nil {
			return err
		}
	}
	return nil
}

// read reads a bundle, or has a child read a STEP file, alone or in a zip with those that it names.
func (a *assembling) read(ctx context.Context, p *pool.Pool, name string) (*documents.Assembled, error) {
	data, err := os.ReadFile(name)
	if err != nil { // a folder, or nothing
		return documents.ReadAssembled(name)
	}
	if main, _, err := documents.ReadSTEPZip(data); !documents.IsSTEP(data) && (err != nil || main == nil) {
		return documents.ReadAssembled(name)
	}
	raw, err := p.Do(ctx, &task.Request{Kind: task.UnpackAssembly, Name: filepath.Base(name), File: data}, nil)
	if err != nil {
		return nil, err
	}
	out := &documents.Assembled{}
	return out, json.Unmarshal(raw, out)
}

// partShapes has every part made in a kernel child.
func partShapes(ctx context.Context, p *pool.Pool, bundle *documents.Assembled,
	values map[string]string) (map[string]*assembly.Shape, error) {
	doc, err := json.Marshal(bundle.Document)
	if err != nil {
		return nil, err
	}
	out := map[string]*assembly.Shape{}
	for _, part := range bundle.Document.Parts {
		raw, failed := p.Do(ctx, &task.Request{Kind: task.Feature, Assembly: doc, Part: part.ID,
			File: bundle.Files[part.File],
			Set:  values}, nil)
		if raw, err = task.Shape(&part, raw, failed); err != nil {
			return nil, err
		}
		shape := &assembly.Shape{}
		if err := json.Unmarshal(raw, shape); err != nil {
			return nil, err
		}
		out[part.ID] = shape
	}
	return out, nil
}

// clashes has a kernel child look for collisions where the components stand.
func clashes(ctx context.Context, p *pool.Pool, d *assembly.Document, files map[string][]byte) ([]clash.Pair, error) {
	doc, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	raw, err := p.Do(ctx, &task.Request{Kind: task.Clash, Assembly: doc, Files: files}, nil)
	if err != nil {
		return nil, err
	}
	var out struct{ Pairs []clash.Pair }
	return out.Pairs, json.Unmarshal(raw, &out)
}

// varied has a kernel child vary the sizes of an assembly.
func varied(ctx context.Context, p *pool.Pool, d *assembly.Document, files map[string][]byte) (*vary.Varied, error) {
	doc, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	raw, err := p.Do(ctx, &task.Request{Kind: task.Vary, Assembly: doc, Files: files}, nil)
	if err != nil {
		return nil, err
	}
	out := &vary.Varied{}
	return out, json.Unmarshal(raw, out)
}

// write writes the assembly where it stands as a STEP file.
func (a *assembling) write(ctx context.Context, p *pool.Pool, d *assembly.Document, files map[string][]byte) error {
	doc, err := json.Marshal(d)
	if err != nil {
		return err
	}
	raw, err := p.Do(ctx, &task.Request{Kind: task.ExportAssembly, Name: "ap242", Assembly: doc, Files: files}, nil)
	if err != nil {
		return err
	}
	var out modeller.Exported
	if err := json.Unmarshal(raw, &out); err != nil {
		return err
	}
	return os.WriteFile(a.step, out.Data, 0o644)
}

// way is what --drive says: the drive, its ends, and what leads to degrees or to the unit of the assembly.
func (a *assembling) way(m *assembly.Mechanism) (drive *assembly.Drive, ends [2]float64, scale float64, err error) {
	joint, way, over := strings.Cut(a.drive, "=")
	from, to, ok := strings.Cut(way, "..")
	if over && !ok {
		return nil, ends, 0, fmt.Errorf("--drive %s: write joint=from..to", a.drive)
	}
	if drive, err = m.Drive(joint); err != nil {
		return nil, ends, 0, err
	}
	dim, scale := quantity.Length, 1/a.table.Unit().Factor
	if drive.Turns {
		dim, scale = quantity.Angle, 180/math.Pi
	}
	if !over {
		if ends[0], ends[1], ok, err = m.Document.Range(joint, a.table); err == nil && !ok {
			err = fmt.Errorf("--drive %s: the assembly says no range for this joint: write %[1]s=from..to", a.drive)
		}
		return drive, ends, scale, err
	}
	for i, text := range []string{from, to} {
		if ends[i], err = a.table.Eval(text, dim); err != nil {
			return nil, ends, 0, fmt.Errorf("--drive %s: %w", a.drive, err)
		}
	}
	return drive, ends, scale, nil
}

// sweep looks for collisions on the way of the drive.
func (a *assembling) sweep(ctx context.Context, d *assembly.Document, shapes map[string]*assembly.Shape,
	set map[string]quantity.Quantity, out *assessed) error {
	m, err := assembly.New(d, shapes, set)
	if err != nil {
		return err
	}
	m.Solve()
	drive, ends, scale, err := a.way(m)
	if err != nil {
		return err
	}
	if out.Swept, _, err = clash.Sweep(ctx, m, drive.Joint(), ends[0], ends[1], func(float64) {}); err != nil {
		return err
	}
	for i := range out.Swept {
		s := &out.Swept[i]
		s.From, s.To = s.From*scale, s.To*scale
		a.sound = false
	}
	return nil
}

// move drives a joint and traces points.
func (a *assembling) move(m *assembly.Mechanism, out *assessed) error {
	drive, ends, scale, err := a.way(m)
	if err != nil {
		return err
	}
	points, lost := m.Traced()
	out.Lost = append(out.Lost, lost...)
	for _, t := range a.trace {
		component, name, _ := strings.Cut(t, "/")
		p, err := m.Point(address.Ref{Component: component, Name: name})
		if err != nil {
			return fmt.Errorf("--trace %s: %w", t, err)
		}
		points = append(points, p)
	}
	record := drive.Record(ends[0], ends[1], recorded, points)
	if out.Motion, err = m.Table(record); err != nil {
		return err
	}
	if record.Stopped {
		v := drive.Value() * scale
		out.StoppedAt, a.sound = &v, false
	}
	a.sound = a.sound && len(lost) == 0
	return nil
}

func (a *assembling) print(m *assembly.Mechanism, out *assessed) error {
	w := a.say
	fmt.Fprintln(w, out.Name)
	for _, l := range out.Lost {
		fmt.Fprintf(w, "Lost: %s; %s\n", l.What, l.Remedy)
	}
	switch {
	case out.Solved.Holds:
		fmt.Fprintln(w, "All joints hold.")
	default:
		fmt.Fprintf(w, "These joints cannot hold together: %s. Loosen one of them.\n", titles(m, out.Solved.Contradiction))
	}
	if len(out.Solved.Flipped) > 0 {
		fmt.Fprintf(w, "The other way round than asked for: %s.\n", titles(m, out.Solved.Flipped))
	}
	t := tabwriter.NewWriter(w, 0, 4, 2, ' ', 0)
	fmt.Fprintln(t, "\nItem\tQuantity\tName\tMaterial\tMass")
	for _, i := range out.Items {
		mass := "–"
		if i.Mass > 0 {
			mass = fmt.Sprintf("%.4g kg", i.Mass)
		}
		fmt.Fprintf(t, "%s\t%d\t%s\t%s\t%s\n", i.Number, i.Quantity, i.Name, i.Material, mass)
	}
	if err := t.Flush(); err != nil {
		return err
	}
	if x := out.Mobility; x != nil {
		fmt.Fprintf(w, "\nFreedoms: %d", x.Freedom)
		if x.Reason != "" {
			fmt.Fprintf(w, " (%d by counting: %s)", x.Counted, x.Reason)
		}
		fmt.Fprintln(w)
		for _, l := range x.Loose {
			c, _ := m.Document.Component(l.Component)
			fmt.Fprintf(w, "  %s moves in %s\n", c.Title(), quantity.Count(l.Freedom, "way", "ways"))
		}
		for i, words := range x.Ways(m.Document) {
			fmt.Fprintf(w, "  it can go on (%d): %s\n", i+1, words)
		}
	}
	if a.interference {
		fmt.Fprintln(w)
		for _, p := range out.Pairs {
			fmt.Fprintf(w, "%s: %s\n", p.Kind, p.What)
			for _, f := range p.Fits {
				fmt.Fprintf(w, "  %s in %s, ⌀%s, clearance %s\n", f.Shaft, f.Bore, a.as.Length(f.Diameter),
					a.as.Length(f.Clearance))
			}
		}
		if len(out.Pairs) == 0 {
			fmt.Fprintln(w, "No component touches another one.")
		}
	}
	if out.Motion != nil {
		if err := a.printMotion(out.Motion); err != nil {
			return err
		}
	}
	if out.Varied != nil {
		printVaried(w, out.Varied)
	}
	for _, s := range out.Swept {
		one, _ := m.Document.Component(s.A)
		other, _ := m.Document.Component(s.B)
		says := "%s and %s collide from %.5g to %.5g.\n"
		if s.Kind == clash.Ask {
			says = "Whether %s and %s collide is not proved from %.5g to %.5g.\n"
		}
		fmt.Fprintf(w, says, one.Title(), other.Title(), s.From, s.To)
	}
	if out.StoppedAt != nil {
		fmt.Fprintf(w, "It stops at %.6g: the mechanism cannot follow any further, or a joint is at its limit.\n",
			*out.StoppedAt)
	}
	return nil
}

// printVaried says how the assembly bears other sizes.
func printVaried(w io.Writer, v *vary.Varied) {
	fmt.Fprintf(w, "\nVaried: %s\n", strings.Join(v.Sizes, "; "))
	for _, f := range v.Found {
		fmt.Fprintf(w, "From %s = %s (it is %s): %s; %s.\n", f.Size, f.From, f.Now, f.What, f.Remedy)
	}
	for _, r := range v.Repeats {
		if r.Touchy {
			fmt.Fprintf(w, "Held twice: %s holds what %s hold, and contradicts them at another %s. Loosen one of them.\n",
				r.Joint,
				strings.Join(r.With, ", "), r.By)
		}
	}
	if len(v.Found) == 0 {
		fmt.Fprintln(w, "All of these sizes can be changed.")
	}
}

// printMotion prints the table of a motion, which a spreadsheet reads when it is copied.
func (a *assembling) printMotion(motion *assembly.Table) error {
	t := tabwriter.NewWriter(a.say, 0, 4, 2, ' ', 0)
	fmt.Fprintln(t, "\n"+strings.Join(motion.Head, "\t"))
	for _, row := range motion.Rows {
		cells := make([]string, len(row))
		for i, v := range row {
			if cells[i] = "–"; v != nil {
				cells[i] = fmt.Sprintf("%.6g", *v)
			}
		}
		fmt.Fprintln(t, strings.Join(cells, "\t"))
	}
	return t.Flush()
}

// titles are what joints are called.
func titles(m *assembly.Mechanism, ids []string) string {
	var out []string
	for _, id := range ids {
		for i := range m.Document.Joints {
			if m.Document.Joints[i].ID == id {
				out = append(out, m.Document.TitleOf(&m.Document.Joints[i]))
			}
		}
	}
	return quantity.List(out, len(out))
}
