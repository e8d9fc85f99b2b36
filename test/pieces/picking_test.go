package pieces

import "testing"

// A block of 80 by 40 by 20 is seen from above, a pixel to a millimetre, the middle of the view over its own.
// What is under the pointer: corners before edges before faces, within seven pixels, and nothing that material
// hides unless a section took that away.
func TestPicking(t *testing.T) {
	type look struct {
		X, Y    float64
		Allowed []string
		Cut     bool // all above the middle plane is cut away
		want    string
	}
	faces, all := []string{"face"}, []string{"face", "edge", "corner"}
	cases := []look{
		{X: 0, Y: 0, Allowed: all, want: "face:0"},
		{X: 0, Y: -12, Allowed: all, Cut: true, want: "face:1"},
		{X: 38, Y: 0, Allowed: all, want: "edge:0"},
		{X: 46, Y: 12, Allowed: all, want: "edge:0"}, // beside the block, still within reach
		{X: 48, Y: 12, Allowed: all, want: ""},
		{X: 38, Y: 0, Allowed: faces, want: "face:0"},
		{X: 37, Y: 17, Allowed: all, want: "corner:0"},
		{X: 37, Y: 17, Allowed: []string{"face", "edge"}, want: "edge:0"},
		{X: 10, Y: 2, Allowed: all, want: "face:0"}, // the edge below is hidden
		{X: 10, Y: 2, Allowed: all, Cut: true, want: "edge:1"},
		{X: 10, Y: 2, Allowed: []string{"solid"}, want: "solid:e1"},
		{X: 60, Y: 30, Allowed: all, want: ""},
	}
	var got []*string
	run(t, `
		import * as THREE from "$/../node_modules/three";
		import { pickAt } from "$/modeller/picking.ts";
		const sheet = (z) => [-40, -20, z, 40, -20, z, 40, 20, z, -40, 20, z];
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array([...sheet(10), ...sheet(-10)]), 3));
		geometry.setIndex([0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7]);
		const part = {
			mesh: { faces: [0, 0, 1, 1] },
			faces: [{ name: "e1/end", solid: "e1" }, { name: "e1/start", solid: "e1" }],
			edges: [{ run: [40, -20, 10, 40, 20, 10] }, { run: [-40, 0, -10, 40, 0, -10] }],
			corners: [{ at: [40, 20, 10] }],
			sketches: [],
		};
		const camera = new THREE.OrthographicCamera(-100, 100, 75, -75, 1, 1000);
		camera.position.set(0, 0, 100);
		camera.updateMatrixWorld();
		const body = new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ side: THREE.DoubleSide }));
		answer(given.map((c) => pickAt(100 + c.X, 75 - c.Y, {
			part, body, camera, size: { width: 200, height: 150 }, allowed: new Set(c.Allowed), sketches: new Set(),
			clip: c.Cut ? [new THREE.Plane(new THREE.Vector3(0, 0, -1), 0)] : [], extra: [], slack: 0.1,
		})));`, cases, &got)
	for i, c := range cases {
		key := ""
		if got[i] != nil {
			key = *got[i]
		}
		if key != c.want {
			t.Errorf("at %g, %g, of %v, cut %t: %q, not %q", c.X, c.Y, c.Allowed, c.Cut, key, c.want)
		}
	}
}

// What was chosen is found again by its name in another state of the part, wherever it is in the lists there.
func TestWhatWasChosenIsFoundAgain(t *testing.T) {
	var got []string
	run(t, `
		import { foundAgain } from "$/modeller/types.ts";
		const state = (faces, edges) => ({
			faces: faces.map((name) => ({ name })),
			edges: edges.map((ref) => ({ ref: { between: ref, near: undefined } })),
			corners: [],
		});
		const old = state(["a", "b", "c"], [["a", "b"], ["b", "c"]]);
		const now = state(["c", "d", "a"], [["x", "y"], ["a", "b"]]);
		answer([...foundAgain(new Set(["face:0", "face:1", "face:2", "edge:0", "edge:1", "plane:XY"]), old,
			now)].sort());`, nil, &got)
	want := []string{"edge:1", "face:0", "face:2", "plane:XY"}
	if len(got) != len(want) {
		t.Fatalf("found again: %v, not %v", got, want)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("found again: %v, not %v", got, want)
		}
	}
}
