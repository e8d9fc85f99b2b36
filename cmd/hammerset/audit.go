package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"hammerset/core/prepare"
	"hammerset/formats/documents"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

func auditCommand() *cobra.Command {
	var folder string
	var asJSON bool
	cmd := &cobra.Command{Use: "audit --exercise DIR", Short: "Tell whether the sheet of an exercise determines its part",
		Long: "Tell whether the sheet of an exercise determines its part, or states something twice.\n" +
			"Exit code 0: it determines the part. 1: something is missing, stated twice, contradicting, rounded, absent, " +
			"not to be seen in any view, or cannot be judged. What is crowded is told, and is no fault. " +
			"2: could not audit.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var out prepare.Audited
			if err := withExercise(cmd.Context(), folder, func(p *pool.Pool, b *documents.Bundle) error {
				raw, err := p.Do(cmd.Context(), &task.Request{Kind: task.Audit, Exercise: b.Exercise, Reference: b.Reference},
					nil)
				if err != nil {
					return err
				}
				return json.Unmarshal(raw, &out)
			}); err != nil {
				return err
			}
			if asJSON {
				enc := json.NewEncoder(os.Stdout)
				enc.SetIndent("", "  ")
				if err := enc.Encode(out); err != nil {
					return err
				}
			} else {
				printAudit(os.Stdout, &out)
			}
			if !out.Determined() {
				return exit{1}
			}
			return nil
		}}
	cmd.Flags().StringVar(&folder, "exercise", "", "folder with "+documents.ExerciseFile+" and the reference")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print what was found as JSON")
	_ = cmd.MarkFlagRequired("exercise") // the flag exists
	return cmd
}

// printAudit prints each finding on a line of its own.
func printAudit(w io.Writer, a *prepare.Audited) {
	for _, f := range a.Findings {
		fmt.Fprintf(w, "%s: %s; %s\n", f.Kind, f.What, f.Remedy)
	}
	for _, s := range a.Symmetric {
		fmt.Fprintf(w, "taken from symmetry: %s\n", s.Words)
	}
	fmt.Fprintf(w, "Of %d sizes that the drawing must give, %d are stated and %d taken from symmetry", a.Sizes, a.Stated,
		a.BySymmetry)
	if a.Determined() {
		fmt.Fprint(w, ": the sheet determines the part")
	}
	fmt.Fprintln(w, ".")
}
