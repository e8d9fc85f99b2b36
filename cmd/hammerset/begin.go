package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"hammerset/formats/documents"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

// beginCommand makes an exercise of an assembly.
func beginCommand() *cobra.Command {
	var out string
	var joints, atlases bool
	cmd := &cobra.Command{Use: "begin ASSEMBLY --out FOLDER", Short: "Begin an exercise from an assembly",
		Long: "Read a STEP file, or the bundle of an assembly (a folder or zip with " + documents.AssemblyFile +
			" and the files of its parts), and write the folder of an exercise: for the whole, and for every part one of its " +
			"own with its sheet.\nExit code 0: written. 1: written, but the sheet of a part leaves something open. " +
			"2: could not.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if list, err := os.ReadDir(out); err == nil && len(list) > 0 {
				return fmt.Errorf("%s has files in it already: name a new folder", out)
			}
			p, err := kernels(1, 30*time.Minute, nil)
			if err != nil {
				return err
			}
			defer p.Close()
			req := &task.Request{Kind: task.BeginAssembly, Name: filepath.Base(args[0]), Arrange: joints}
			if info, err := os.Stat(args[0]); err == nil && info.IsDir() {
				a, err := documents.ReadAssembled(args[0])
				if err != nil {
					return err
				}
				if req.Assembly, err = json.Marshal(a.Document); err != nil {
					return err
				}
				req.Files = a.Files
			} else if req.File, err = os.ReadFile(args[0]); err != nil {
				return err
			}
			return begin(cmd, p, req, out, atlases)
		}}
	cmd.Flags().StringVar(&out, "out", "", "folder to write")
	cmd.Flags().BoolVar(&joints, "joints", false,
		"where the assembly has no joints, take those that its contacts speak for")
	cmd.Flags().BoolVar(&atlases, "atlases", false, "make the mistake atlases of the parts as well")
	_ = cmd.MarkFlagRequired("out") // the flag exists
	return cmd
}

func begin(cmd *cobra.Command, p *pool.Pool, req *task.Request, out string, atlases bool) error {
	raw, err := p.Do(cmd.Context(), req, nil)
	if err != nil {
		return err
	}
	var begun task.Begun
	if err := json.Unmarshal(raw, &begun); err != nil {
		return err
	}
	ex, err := documents.ReadExercise(begun.Exercise)
	if err != nil {
		return err
	}
	b := &documents.Bundle{Exercise: append(begun.Exercise, '\n'), Reference: begun.Reference, Parsed: ex}
	if atlases {
		if err := withAtlases(cmd.Context(), p, b); err != nil {
			return err
		}
	}
	if err := b.WriteFolder(out); err != nil {
		return err
	}
	left := 0
	for part, list := range begun.Left {
		for _, f := range list {
			left++
			fmt.Fprintf(cmd.OutOrStdout(), "%s: %s: %s; %s\n", part, f.Kind, f.What, f.Remedy)
		}
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%s: %d items\n", out, len(ex.Assembly.Items))
	if left > 0 {
		return exit{1}
	}
	return nil
}
