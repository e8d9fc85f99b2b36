package main

import (
	"bytes"
	"context"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hammerset/formats/documents"
	"hammerset/kernel/pool"
)

// The demo's tackle joint is put together from where its parts lie about: it holds, turns, touches and does not
// collide, at other sizes too; what is wrong with it is said and shows in the exit code.
func TestAssemble(t *testing.T) {
	program, err := filepath.Abs("../../bin/hammerset")
	if err != nil {
		t.Fatal(err)
	}
	p := pool.New(pool.Config{Command: []string{program, "kernel"}, Size: 1})
	defer p.Close()
	bundle, err := documents.ReadAssembled("../../demo/assemblies/tackle-joint")
	if err != nil {
		t.Fatal(err)
	}
	run := func(name string, change func(*documents.Assembled), a assembling) (out assessed, sound bool) {
		t.Helper()
		zip, err := bundle.Zip()
		if err != nil {
			t.Fatal(err)
		}
		b, err := documents.ReadAssembledZip(zip)
		if err != nil {
			t.Fatal(err)
		}
		if change != nil {
			change(b)
		}
		if zip, err = b.Zip(); err != nil {
			t.Fatal(err)
		}
		file := filepath.Join(t.TempDir(), "joint.zip")
		if err := os.WriteFile(file, zip, 0o644); err != nil {
			t.Fatal(err)
		}
		var say bytes.Buffer
		a.say, a.mobility, a.interference, a.asJSON = &say, true, true, true
		if err := a.run(context.Background(), p, file); err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if err := json.Unmarshal(say.Bytes(), &out); err != nil {
			t.Fatal(err)
		}
		return out, a.sound
	}
	kinds := func(out assessed) string {
		var list []string
		for _, p := range out.Pairs {
			list = append(list, p.A+" "+p.B+" "+p.Kind)
		}
		slices.Sort(list)
		return strings.Join(list, ", ")
	}
	const touching = "c1 c3 contact, c1 c4 contact, c2 c3 contact, c3 c4 contact"
	for _, set := range [][]string{nil, {"gap=30"}, {"bore=16", "cheek=1/2 in"}} {
		out, sound := run("as it is", nil, assembling{set: set})
		if !sound || out.Mobility.Freedom != 2 || kinds(out) != touching {
			t.Errorf("with %v: sound is %v, %+v, %s", set, sound, out.Mobility, kinds(out))
		}
	}
	out, sound := run("driven", nil, assembling{drive: "j2=-90..90", trace: []string{"c2/e2/side:l1"}})
	if !sound || out.Motion == nil || len(out.Motion.Rows) != 73 {
		t.Fatalf("driven: %v with %+v", sound, out.Motion)
	}
	for _, row := range out.Motion.Rows {
		at := row[len(row)-4:]
		if r := math.Hypot(*at[0], *at[1]); math.Abs(r-70) > 1e-9 || math.Abs(*at[3]-70*math.Pi/180) > 1e-9 {
			t.Errorf("at %g the end of the eye is %g from the pin, with %g mm for each degree", *row[0], r, *at[3])
		}
	}
	if len(out.Swept) != 0 { // it was driven where it is free
		t.Errorf("on the way: %+v", out.Swept)
	}
	out, sound = run("driven through the fork", nil, assembling{drive: "j2=0..180"})
	if sound || len(out.Swept) != 1 || out.Swept[0].Kind != "collision" || out.Swept[0].From < 110 ||
		out.Swept[0].From > 120 {
		t.Errorf("driven through the fork: sound is %v, %+v", sound, out.Swept)
	}
	// Driven and written as STEP, it is read again where it stood: nothing overlaps, and the same touch.
	file := filepath.Join(t.TempDir(), "driven.step")
	run("driven and written", nil, assembling{drive: "j2=0..35", step: file})
	again := assembling{say: &bytes.Buffer{}, interference: true, asJSON: true}
	if err := again.run(context.Background(), p, file); err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(again.say.(*bytes.Buffer).Bytes(), &out); err != nil || kinds(out) != touching ||
		len(out.Items) != 4 || out.Items[1].Name != "eye" {
		t.Errorf("written as STEP and read again: %v, %s, %+v", err, kinds(out), out.Items)
	}
	out, _ = run("as it is", nil, assembling{})
	// fork 44270.44 mm³, eye 24014.60 with 15 mm, pin and collar; of steel (7850 kg/m³).
	if want := 7850e-9 * (44270.44263 + 24014.59893 + math.Pi*(81*5+36*42) +
		1206.371579); math.Abs(out.Whole.Mass-want) > 1e-6 {
		t.Errorf("the mass is %g kg, not %g", out.Whole.Mass, want)
	}
	out, sound = run("the collar too high", func(b *documents.Assembled) { b.Document.Joints[2].Offset = "-7 mm" },
		assembling{})
	if sound || !strings.Contains(kinds(out), "c1 c4 collision") {
		t.Errorf("a collar in the fork: sound is %v, %s", sound, kinds(out))
	}
	for _, pair := range out.Pairs {
		if pair.Kind == "collision" && math.Abs(pair.Volume-3*math.Pi*(100-36)) > 1e-3 {
			t.Errorf("they share %g mm³", pair.Volume)
		}
	}
	out, sound = run("a pin too thick", func(b *documents.Assembled) {
		b.Document.Parts[2].Values["d"] = "bore + 0.4 " +
			"mm"
	}, assembling{})
	if sound || !strings.Contains(kinds(out), "c1 c3 collision") || !strings.Contains(out.Pairs[0].What,
		"0.4 mm larger than the bore") {
		t.Errorf("a pin too thick: sound is %v, %+v", sound, out.Pairs)
	}
	out, sound = run("a face that is gone", func(b *documents.Assembled) { b.Document.Joints[1].A.Name = "e9/end" },
		assembling{})
	if sound || len(out.Lost) != 1 || out.Mobility.Freedom != 1+6 {
		t.Errorf("a face that is gone: sound is %v, %+v, %+v", sound, out.Lost, out.Mobility)
	}
	out, sound = run("a part that cannot be made", func(b *documents.Assembled) {
		b.Document.Parts[3].Values = map[string]string{"no such size": "3 mm"}
	}, assembling{})
	if sound || len(out.Lost) != 2 || !strings.Contains(out.Lost[0].What, `the part collar cannot be made`) ||
		kinds(out) != "c1 c3 contact, c2 c3 contact, c4 c4 ask" {
		t.Errorf("a part that cannot be made: sound is %v, %+v, %s", sound, out.Lost, kinds(out))
	}
	for _, bad := range []assembling{{drive: "j2"}, {drive: "j9=0..1"}, {set: []string{"reach=3"}}, {drive: "j2=0..90",
		trace: []string{"c9/x"}}} {
		bad.say = &bytes.Buffer{}
		if err := bad.run(context.Background(), p, "../../demo/assemblies/tackle-joint"); err == nil {
			t.Errorf("%+v is taken", bad)
		}
	}
}
