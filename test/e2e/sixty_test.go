package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"hammerset/bench/tongs"
	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/part"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/stock"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// watchFrames counts what is drawn in each frame, and how long scripts take for it.
const watchFrames = `() => {
	const w = window.frames60 = { script: [], draws: [], corners: 0, first: 0, now: 0, drawn: 0 };
	const gl = WebGL2RenderingContext.prototype;
	const count = (name, corners) => {
		const was = gl[name];
		gl[name] = function (...a) { w.now++; w.drawn += corners(a); return was.apply(this, a); };
	};
	count("drawElements", (a) => a[1]);
	count("drawArrays", () => 0);
	count("drawElementsInstanced", () => 0);
	count("drawArraysInstanced", () => 0);
	const get = gl.getExtension;
	gl.getExtension = function (name) {
		const e = get.call(this, name);
		if (name === "WEBGL_multi_draw" && e && !e.counted) {
			e.counted = true;
			const was = e.multiDrawElementsWEBGL.bind(e);
			e.multiDrawElementsWEBGL = (...a) => {
				w.now++;
				for (let i = 0; i < a[6]; i++) w.drawn += a[1][a[2] + i];
				return was(...a);
			};
		}
		return e;
	};
	const raf = window.requestAnimationFrame.bind(window);
	window.requestAnimationFrame = (f) => raf((t) => {
		w.now = w.drawn = 0;
		const start = performance.now();
		f(t);
		if (w.now === 0) return;
		w.script.push(performance.now() - start);
		w.draws.push(w.now);
		if (w.drawn > w.corners) { w.corners = w.drawn; w.first = performance.now(); }
	});
}`

// Sixty components of twenty parts, the references of the demo's exercises and screws: how long it takes from pressing
// on the assembly until they are seen, against reading and meshing the distinct parts once; how much scripts do in a
// frame while the view is turned, and how often something is drawn. It is a part of make bench.
func TestSixtyComponents(t *testing.T) {
	if os.Getenv("HAMMERSET_BENCH") == "" {
		t.Skip("a part of make bench")
	}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(occ.Kernel{})}
	doc := &assembly.Document{Hammerset: assembly.Version, Name: "sixty", Unit: "mm", Joints: []assembly.Joint{}}
	files := map[string][]byte{}
	var alone time.Duration
	kind := stock.Kinds()[0]
	references, err := filepath.Glob(filepath.Join(root(t), "demo/exercises/*/reference.json"))
	if err != nil || len(references) == 0 {
		t.Fatal(err, "no references of the demo")
	}
	for n := range 20 {
		size := kind.Sizes[n%len(kind.Sizes)]
		name, data, err := stock.Document(kind.Name, size, 20+float64(n))
		if n < len(references) {
			name = fmt.Sprint("reference ", n+1)
			data, err = os.ReadFile(references[n])
		}
		if err != nil {
			t.Fatal(err)
		}
		start := time.Now()
		model, err := documents.ReadModel(data)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := maker.Model(t.Context(), model, nil, ""); err != nil {
			t.Fatal(err)
		}
		alone += time.Since(start)
		p := shapes.Kept(data, ".json", name, n+1)
		doc.Parts, files[p.File] = append(doc.Parts, p), data
		for k := range 3 {
			pose := rigid.Still()
			pose.Shift = solid.Vec{40 * float64(n%10), 40*float64(n/10) + 100*float64(k), 0}
			doc.Components = append(doc.Components, assembly.Component{ID: fmt.Sprintf("c%d", len(doc.Components)+1),
				Name: fmt.Sprintf("%s, %d", name, k+1), Part: p.ID, Pose: pose, Pinned: n+k == 0})
		}
	}
	bundle, err := documents.PackAssembly(doc, files)
	if err != nil {
		t.Fatal(err)
	}
	a := startAloneApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	api := a.client("ottoline")
	body, err := json.Marshal(map[string][]byte{"bundle": bundle})
	if err != nil {
		t.Fatal(err)
	}
	if code, made := api.do("POST", "/api/assemblies", "application/json", string(body)); code != 201 {
		t.Fatal(code, made)
	}
	p.open("/models")
	link := p.find("a", "sixty")
	time.Sleep(2 * time.Second) // the list is read
	p.MustEval(watchFrames)
	p.MustEval(`() => window.addEventListener("click", () => { window.frames60.from = performance.now() }, true)`)
	link.MustClick()
	f := p.openFitting("")
	time.Sleep(time.Second)
	from := p.MustEval(`() => window.frames60.from`).Num()
	first := time.Duration((p.MustEval(`() => window.frames60.first`).Num() - from) * 1e6)
	p.MustEval(`() => { window.frames60.script.length = window.frames60.draws.length = 0 }`)
	box := f.MustElement("[data-fitting-view] canvas").MustShape().Box()
	f.Mouse.MustMoveTo(box.X+20, box.Y+20)
	f.Mouse.MustDown(proto.InputMouseButtonLeft)
	for k := range 120 {
		f.Mouse.MustMoveTo(box.X+20+4*float64(k), box.Y+20+float64(k))
		time.Sleep(16 * time.Millisecond)
	}
	f.Mouse.MustUp(proto.InputMouseButtonLeft)
	var script, draws []float64
	p.MustEval(`() => window.frames60.script`).Unmarshal(&script)
	p.MustEval(`() => window.frames60.draws`).Unmarshal(&draws)
	slices.Sort(script)
	slices.Sort(draws)
	t.Logf("first picture after %v, the parts alone %v: %.2f times", first.Round(time.Millisecond),
		alone.Round(time.Millisecond), first.Seconds()/alone.Seconds())
	t.Logf("turning: %d frames, scripts %.2f ms in 95 of 100, %.0f drawings of 20 distinct parts", len(script),
		script[len(script)*95/100], draws[len(draws)-1])
	f.Keyboard.MustType(input.Escape)

	// Mobility of sixty bars of lazy tongs, in the browser: the core alone, without the page.
	tongued, of := tongs.Tongs(30)
	data, err := json.Marshal(map[string]any{"document": tongued, "shapes": of})
	if err != nil {
		t.Fatal(err)
	}
	took := p.MustEval(`async (args) => {
		const worker = new Worker([...performance.getEntriesByType("resource")].map((e) => e.name).find((n) =>
			/engine\.worker/.test(n)), { type: "module" });
		let next = 1;
		const call = (method, args) => new Promise((done, fail) => {
			const id = next++;
			worker.onmessage = (e) => e.data.id === id && (JSON.parse(e.data.out).error ? fail(e.data.out) : done(e.data.ms));
			worker.postMessage({ id, method, args });
		});
		await call("fitting-open", JSON.parse(args));
		const all = [];
		for (let k = 0; k < 7; k++) {
			all.push(await call("fitting-do", { command: { do: "name", name: "n" + k }, shapes: {} }));
		}
		worker.terminate();
		return all;
	}`, string(data))
	t.Logf("a change of sixty bars, solved, with its mobility and picture, in the browser: %v ms", took)
}
