package geometry

import (
	"encoding/json"
	"fmt"
	"testing"

	"hammerset/core/assembly"
	"hammerset/formats/documents"
	"hammerset/kernel/child"
	"hammerset/kernel/task"
)

func TestZZ(t *testing.T) {
	a, err := documents.ReadAssembled("/tmp/asm/out/curve-drawer")
	if err != nil {
		t.Fatal(err)
	}
	w, _ := child.NewWorker()
	doc, _ := json.Marshal(a.Document)
	raw, err := w.Do(ctx, &task.Request{Kind: task.Feature, Assembly: doc, File: a.Files["base.json"], Part: "base"}, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range raw.(*assembly.Shape).Features {
		fmt.Println(f.Name, f.Form, f.At, f.Axis, f.Length)
	}
}
