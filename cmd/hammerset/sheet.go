package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/formats/documents"
	"hammerset/formats/dxf/sheets"
	"hammerset/formats/lettering"
	"hammerset/formats/pdf"
	"hammerset/formats/png"
	"hammerset/formats/svg"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

func sheetCommand() *cobra.Command {
	var folder, out string
	var propose bool
	cmd := &cobra.Command{Use: "sheet --exercise DIR --out FILE", Short: "Draw the sheet of an exercise",
		Long: "Draw the sheet of an exercise as PDF, SVG, DXF or PNG, by the ending of the file, in its true size. Of a " +
			"set each sheet is a page of the PDF; in other files they stand one under the other.\n" +
			"With --propose characteristics are added until the sheet determines the part, and it is laid out anew; each is " +
			"told on a line. The exercise itself stays as it is.\n" +
			"Exit code 0: drawn. 1: drawn, but something is left open that no characteristic settles. 2: could not draw.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			render, err := rendering(out)
			if err != nil {
				return err
			}
			return withExercise(cmd.Context(), folder, func(p *pool.Pool, b *documents.Bundle) error {
				return drawInto(cmd, out, render, propose, p, b)
			})
		}}
	cmd.Flags().StringVar(&folder, "exercise", "", "folder with "+documents.ExerciseFile+" and the reference")
	cmd.Flags().StringVar(&out, "out", "", "file to write, .pdf, .svg, .dxf or .png")
	cmd.Flags().BoolVar(&propose, "propose", false, "add what the sheet must state, and lay it out anew")
	for _, name := range []string{"exercise", "out"} {
		_ = cmd.MarkFlagRequired(name) // the flag exists
	}
	return cmd
}

// drawInto draws the sheet of an exercise into a file, with what it lacks where that is asked for.
func drawInto(cmd *cobra.Command, out string, render func(*sheet.Drawing) ([]byte, error), propose bool, p *pool.Pool,
	b *documents.Bundle) error {
	left := 0
	var err error
	if propose {
		if left, err = proposed(cmd, p, b); err != nil {
			return err
		}
	}
	raw, err := p.Do(cmd.Context(), &task.Request{Kind: task.Prepare, Exercise: b.Exercise, Reference: b.Reference}, nil)
	if err != nil {
		return err
	}
	var drawn prepare.Prepared
	if err := json.Unmarshal(raw, &drawn); err != nil {
		return err
	}
	data, err := render(drawn.Drawing)
	if err != nil {
		return err
	}
	if err := os.WriteFile(out, data, 0o644); err != nil {
		return err
	}
	if left > 0 {
		return exit{1}
	}
	return nil
}

// rendering finds how a drawing is written into a file, by the ending of its name.
func rendering(file string) (func(*sheet.Drawing) ([]byte, error), error) {
	font, err := lettering.Load()
	if err != nil {
		return nil, err
	}
	switch filepath.Ext(file) {
	case ".pdf":
		return func(d *sheet.Drawing) ([]byte, error) { return pdf.Sheet(d, font) }, nil
	case ".dxf":
		return func(d *sheet.Drawing) ([]byte, error) { return sheets.Write(d, font), nil }, nil
	case ".png":
		return func(d *sheet.Drawing) ([]byte, error) { return png.Sheet(d, font) }, nil
	case ".svg":
		return func(d *sheet.Drawing) ([]byte, error) { return svg.Render(d, font, svg.Options{}), nil }, nil
	}
	return nil, fmt.Errorf("%s: a sheet is written as .pdf, .svg, .dxf or .png: end the name of the file so", file)
}

// proposed adds to an exercise what its sheet lacks, and says so. It tells how many findings are left.
func proposed(cmd *cobra.Command, p *pool.Pool, b *documents.Bundle) (left int, err error) {
	raw, err := p.Do(cmd.Context(), &task.Request{Kind: task.Propose, Exercise: b.Exercise, Reference: b.Reference}, nil)
	if err != nil {
		return 0, err
	}
	var out prepare.Proposed
	if err := json.Unmarshal(raw, &out); err != nil {
		return 0, err
	}
	for _, label := range out.Added {
		fmt.Fprintf(cmd.OutOrStdout(), "added: %s\n", label)
	}
	for _, f := range out.Left {
		fmt.Fprintf(cmd.OutOrStdout(), "%s: %s; %s\n", f.Kind, f.What, f.Remedy)
	}
	b.Exercise, err = json.Marshal(out.Exercise)
	return len(out.Left), err
}
