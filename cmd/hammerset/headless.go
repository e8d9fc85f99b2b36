package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"runtime"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/formats/stl"
	"hammerset/kernel/child"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

// childMemory is the address space of a kernel child: the Go runtime reserves
// about a gigabyte of it without using it.
const childMemory = 8 << 30

func kernelCommand() *cobra.Command {
	return &cobra.Command{Use: "kernel", Short: "Take geometry tasks from standard input (started by the server)",
		Hidden: true, Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := child.Harden(childMemory); err != nil {
				return err
			}
			return child.Serve(context.Background(), os.Stdin, os.Stdout)
		}}
}

// kernels makes a pool of children of this program. Reports of parts are kept where it is said, or while it runs.
func kernels(size int, wall time.Duration, kept pool.Reports) (*pool.Pool, error) {
	command, err := pool.Self()
	if err != nil {
		return nil, err
	}
	return pool.New(pool.Config{Command: command, Size: size, Wall: wall, Reports: kept}), nil
}

func checkCommand() *cobra.Command {
	var folder, attempt string
	var asJSON, trace bool
	all := &bulk{say: os.Stderr}
	cmd := &cobra.Command{Use: "check --exercise DIR (--attempt FILE | --attempts FOLDER --out results.csv)",
		Short: "Check one attempt, or a folder of them",
		Long: "Check one attempt against an exercise folder and print the report.\nExit code 0: every characteristic in. " +
			"1: something out, not found or to ask. 2: could not check.\n\nWith --attempts, check all files of a folder into " +
			"a table. A run that was stopped goes on where it was.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if (attempt == "") == (all.folder == "") {
				return errors.New("give --attempt FILE, or --attempts FOLDER with --out results.csv")
			}
			if all.folder != "" {
				if all.out == "" {
					return errors.New("give --out: the table that the results go to")
				}
				ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt)
				defer stop()
				return checkFolder(ctx, all, folder)
			}
			if trace && !asJSON {
				return errors.New("--trace goes with --json: it is part of the report")
			}
			out, err := checkFile(cmd.Context(), folder, attempt)
			if err != nil {
				return err
			}
			rep := out.Report
			if trace {
				rep.Trace = out.Trace
			}
			if asJSON {
				enc := json.NewEncoder(os.Stdout)
				enc.SetIndent("", "  ")
				if err := enc.Encode(rep); err != nil {
					return err
				}
			} else {
				printReport(os.Stdout, rep)
			}
			if rep.Count(report.In) < len(rep.Characteristics) {
				return exit{1}
			}
			return nil
		}}
	cmd.Flags().StringVar(&folder, "exercise", "", "folder with "+documents.ExerciseFile+" and the reference")
	cmd.Flags().StringVar(&attempt, "attempt", "", "model document (JSON) or STEP file")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print the report as JSON (docs/formats/report.schema.json)")
	cmd.Flags().BoolVar(&trace, "trace", false, "with --json: also say which stage of the check set each verdict, and why")
	cmd.Flags().StringVar(&all.folder, "attempts", "",
		"folder of attempts, each a model document, STEP file, mesh, or zip of a part with its what-ifs")
	cmd.Flags().StringVar(&all.out, "out", "", "table of results (CSV)")
	cmd.Flags().StringVar(&all.reports, "reports", "", "folder for the whole reports as JSON")
	cmd.Flags().BoolVar(&all.again, "again", false, "check anew what was checked against another state of the exercise")
	cmd.Flags().IntVar(&all.workers, "workers", runtime.NumCPU(), "how many are checked at once")
	_ = cmd.MarkFlagRequired("exercise") // the flag exists
	return cmd
}

func checkFile(ctx context.Context, folder, attempt string) (*check.Outcome, error) {
	data, err := os.ReadFile(attempt)
	if err != nil {
		return nil, err
	}
	p, err := kernels(1, 10*time.Minute, nil)
	if err != nil {
		return nil, err
	}
	defer p.Close()
	b, err := readExercise(ctx, p, folder)
	if err != nil {
		return nil, err
	}
	if err := withAtlas(ctx, p, b); err != nil {
		return nil, err
	}
	raw, err := p.Do(ctx, &task.Request{Kind: task.Check, Exercise: b.Exercise, Reference: b.Reference, Atlas: b.Atlas,
		Name: filepath.Base(attempt), File: data}, nil)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", attempt, err)
	}
	var out check.Outcome
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	return &out, nil
}

// withAtlas makes the mistake atlas of an exercise that comes without one; of an assembly those of its parts.
func withAtlas(ctx context.Context, p *pool.Pool, b *documents.Bundle) error {
	if b.Parsed.Kind == exercise.Assembly {
		return withAtlases(ctx, p, b)
	}
	ref, err := documents.ReadReference(b.Reference)
	if err != nil || ref.Document == nil || b.Atlas != nil {
		return err
	}
	return madeOnce(ctx, p, b)
}

// madeOnce makes what is made once for many attempts: the mistake atlas; of an assembly also how far its sizes can be
// varied, which a single check that needs it finds out by itself.
func madeOnce(ctx context.Context, p *pool.Pool, b *documents.Bundle) error {
	var err error
	b.Atlas, err = p.Do(ctx, &task.Request{Kind: task.Atlas, Exercise: b.Exercise, Reference: b.Reference}, nil)
	if err != nil {
		return fmt.Errorf("the mistake atlas: %w", err)
	}
	return nil
}

// withAtlases puts the mistake atlases of the parts into the reference of an assembly, where they are not there.
func withAtlases(ctx context.Context, p *pool.Pool, b *documents.Bundle) error {
	ref, err := documents.ReadAssemblyReference(b.Parsed, b.Reference)
	if err != nil {
		return err
	}
	for _, own := range ref.Exercises {
		if err := withAtlas(ctx, p, own); err != nil {
			return err
		}
	}
	b.Reference, err = ref.Zip()
	return err
}

func atlasCommand() *cobra.Command {
	var folder string
	cmd := &cobra.Command{Use: "atlas --exercise DIR",
		Short: "Make the mistake atlas of an exercise and keep it in its folder", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := os.Remove(filepath.Join(folder, documents.AtlasFile)); err != nil && !errors.Is(err, os.ErrNotExist) {
				return err
			}
			b, err := documents.ReadFolder(folder)
			if err != nil {
				return fmt.Errorf("exercise %s: %w", folder, err)
			}
			if b.Parsed.Kind == exercise.Assembly {
				return errors.New("an assembly has none of its own: name the folder of one of its parts")
			}
			p, err := kernels(1, 30*time.Minute, nil)
			if err != nil {
				return err
			}
			defer p.Close()
			if err := withAtlas(cmd.Context(), p, b); err != nil {
				return err
			}
			if b.Atlas == nil {
				return errors.New("the reference is a STEP file: it has no sizes in which a mistake could be made")
			}
			return os.WriteFile(filepath.Join(folder, documents.AtlasFile), append(b.Atlas, '\n'), 0o644)
		}}
	cmd.Flags().StringVar(&folder, "exercise", "", "folder with "+documents.ExerciseFile+" and the reference")
	_ = cmd.MarkFlagRequired("exercise") // the flag exists
	return cmd
}

func printReport(w io.Writer, r *report.Report) {
	fmt.Fprintf(w, "%s: %s\n", r.Exercise, r.Attempt.Name)
	if r.Pose != nil {
		fmt.Fprintf(w, "Pose: %s\n", r.Pose.Words)
	}
	if r.Scale != nil {
		fmt.Fprintf(w, "Unit: %s\n", r.Scale.Words)
	}
	if r.Attempt.Reference {
		fmt.Fprintln(w, "This is the reference itself.")
	}
	t := tabwriter.NewWriter(w, 0, 4, 2, ' ', 0)
	fmt.Fprintln(t, "\nNo\tCharacteristic\tSheet\tMeasured\tDeviation\tVerdict")
	for _, c := range r.Characteristics {
		number := fmt.Sprint(c.Balloon)
		if c.Item != "" {
			number = c.Item + "/" + number
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t%s\t%s\t%s\n", number, c.Label, c.NominalText, c.MeasuredText, c.DeviationText, c.Verdict)
	}
	if r.Assembly == nil {
		fmt.Fprintln(t, "\nWhole part\t\t\t\t\t")
	}
	for _, f := range r.Whole {
		fmt.Fprintf(t, "\t%s\t\t%s\t%s\t%s\n", f.Label, f.Text, f.Deviation, f.Verdict)
	}
	t.Flush()
	printAssembly(w, r.Assembly)
	if len(r.Findings) > 0 {
		fmt.Fprintln(w, "\nFindings")
	}
	for _, f := range r.Findings {
		fmt.Fprintf(w, "- %s: %s.", f.Where, f.What)
		if f.Cause != "" {
			fmt.Fprintf(w, " %s: %s.", f.Label(), f.Cause)
		}
		fmt.Fprintf(w, " To do: %s.\n", f.Remedy)
	}
	fmt.Fprintln(w)
	for _, m := range r.Marks {
		fmt.Fprintf(w, "%s: %.4g of %.4g (%s)\n", m.Label, m.Points, m.OutOf, m.Reason)
	}
	fmt.Fprintf(w, "Marks: %.4g of %.4g\n", r.Points, r.OutOf)
}

func rebuildCommand() *cobra.Command {
	var set []string
	var props bool
	var stepOut, meshOut string
	cmd := &cobra.Command{Use: "rebuild MODEL.json", Short: "Rebuild a model, with other sizes if wanted",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			values := map[string]string{}
			for _, s := range set {
				name, value, ok := strings.Cut(s, "=")
				if !ok {
					return fmt.Errorf("--set %s: write name=value", s)
				}
				values[strings.TrimSpace(name)] = value
			}
			p, err := kernels(1, 10*time.Minute, nil)
			if err != nil {
				return err
			}
			defer p.Close()
			raw, err := p.Do(cmd.Context(), &task.Request{Kind: task.Rebuild, File: data, Set: values, WantSTEP: stepOut != "",
				WantMesh: meshOut != ""}, nil)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			var r modeller.Rebuilt
			if err := json.Unmarshal(raw, &r); err != nil {
				return err
			}
			return finishRebuild(&r, props, stepOut, meshOut)
		}}
	cmd.Flags().StringArrayVar(&set, "set", nil, "set a parameter: name=value (repeat for more)")
	cmd.Flags().BoolVar(&props, "props", false, "print volume, area, centre of mass and overall sizes")
	cmd.Flags().StringVar(&stepOut, "step", "", "write the solid as STEP (AP214, mm)")
	cmd.Flags().StringVar(&meshOut, "mesh", "", "write a mesh as binary STL (mm)")
	return cmd
}

func finishRebuild(r *modeller.Rebuilt, props bool, stepOut, meshOut string) error {
	failed := false
	for _, s := range r.Steps {
		if s.Failed {
			failed = true
			fmt.Fprintln(os.Stderr, s.Message)
		} else if s.Message != "" {
			fmt.Fprintf(os.Stderr, "step %s: %s\n", s.ID, s.Message)
		}
	}
	if r.Solids == 0 {
		return errors.New("the model makes no solid")
	}
	if props {
		u, err := quantity.LengthUnit(r.Unit)
		if err != nil {
			return err
		}
		f := u.Factor
		fmt.Printf("solids  %d\nfaces   %d\nvolume  %.10g %s³\narea    %.10g %s²\n", r.Solids, r.Faces, r.Volume/(f*f*f),
			u.Symbol, r.Area/(f*f), u.Symbol)
		fmt.Printf("centre  %.8g, %.8g, %.8g %s\n", r.Centroid[0]/f, r.Centroid[1]/f, r.Centroid[2]/f, u.Symbol)
		s := r.Box.Size()
		fmt.Printf("overall %.8g × %.8g × %.8g %s\n", s[0]/f, s[1]/f, s[2]/f, u.Symbol)
		for _, p := range r.Parameters {
			fmt.Printf("  %s = %s\n", p.Name, p.Text)
		}
	}
	if stepOut != "" {
		if err := os.WriteFile(stepOut, r.STEP, 0o644); err != nil {
			return err
		}
	}
	if meshOut != "" {
		if err := os.WriteFile(meshOut, stl.Write(r.Mesh), 0o644); err != nil {
			return err
		}
	}
	if failed {
		return exit{1}
	}
	return nil
}

// withExercise reads an exercise from its folder, and has something done with it by a kernel child.
func withExercise(ctx context.Context, folder string, do func(p *pool.Pool, b *documents.Bundle) error) error {
	p, err := kernels(1, 10*time.Minute, nil)
	if err != nil {
		return err
	}
	defer p.Close()
	b, err := readExercise(ctx, p, folder)
	if err != nil {
		return err
	}
	return do(p, b)
}

// readExercise reads an exercise from its folder, with the names that the faces of its reference have now.
func readExercise(ctx context.Context, p *pool.Pool, folder string) (*documents.Bundle, error) {
	b, err := documents.ReadFolder(folder)
	if err == nil && len(b.Parsed.Prints) > 0 {
		b.Exercise, err = p.Do(ctx, &task.Request{Kind: task.Bind, Exercise: b.Exercise, Reference: b.Reference}, nil)
		if err == nil {
			b.Parsed, err = documents.ReadExercise(b.Exercise)
		}
	}
	if err != nil {
		return nil, fmt.Errorf("exercise %s: %w", folder, err)
	}
	return b, nil
}
