// Package occ implements the solid-geometry port on the Open CASCADE library.
// It is the only package that uses cgo.
package occ

// #cgo CXXFLAGS: -std=c++17 -O2 -I/usr/include/opencascade -Wno-deprecated-declarations
// #cgo LDFLAGS: -lTKSTEP -lTKSTEPBase -lTKSTEPAttr -lTKXSBase -lTKHLR -lTKOffset -lTKFillet -lTKMesh -lTKBool -lTKBO
// #cgo LDFLAGS: -lTKPrim -lTKShHealing -lTKTopAlgo -lTKGeomAlgo -lTKBRep -lTKGeomBase -lTKG3d -lTKG2d
// #cgo LDFLAGS: -lTKMath -lTKernel
// #include <stdlib.h>
// #include "shim.h"
import "C"

import (
	"context"
	"errors"
	"fmt"
	"math"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"unsafe"

	"hammerset/core/solid"
)

// Kernel implements solid.Kernel. The zero value is ready for use; it is not
// safe for concurrent use.
type Kernel struct{}

// Careful has every operation of this process tried in a copy of it first, so that one that
// would end the process fails alone. It takes twice as long.
func Careful(on bool) {
	v := 0
	if on {
		v = 1
	}
	C.hs_careful(C.int(v))
}

// shape is a solid of the library with its description, filled when first asked.
type shape struct {
	c      *C.hs_shape
	faces  []solid.Face
	edges  []solid.Edge
	points []solid.Vec
	solids int
	props  *solid.Props // once they are measured: a sheet, a mesh and a check of one solid ask for them in turn
	err    error        // the first failure of describing it
}

// Err says what went wrong when it was described.
func (s *shape) Err() error { return s.err }

// failed keeps the first failure.
func (s *shape) failed(what string, e *errbuf) {
	if s.err == nil {
		s.err = fmt.Errorf("the %s of the solid cannot be described: %w", what, e.err())
	}
}

func wrap(c *C.hs_shape) *shape {
	s := &shape{c: c, solids: -1}
	runtime.AddCleanup(s, func(p *C.hs_shape) { C.hs_free_shape(p) }, c)
	return s
}

type errbuf [C.HS_ERR]C.char

func (e *errbuf) ptr() *C.char { return &e[0] }
func (e *errbuf) err() error   { return errors.New(C.GoString(&e[0])) }

func unwrap(s solid.Shape) *shape { return s.(*shape) }

func vec(v [3]C.double) solid.Vec {
	return solid.Vec{float64(v[0]), float64(v[1]), float64(v[2])}
}

func (s *shape) counts() (faces, edges, vertices, solids int) {
	var e errbuf
	var f, d, v, n C.int
	if C.hs_counts(s.c, &f, &d, &v, &n, e.ptr()) != 0 {
		s.failed("parts", &e)
		return 0, 0, 0, 0
	}
	runtime.KeepAlive(s)
	return int(f), int(d), int(v), int(n)
}

// Vertices gives the place of every vertex.
func (s *shape) Vertices() []solid.Vec {
	_, _, n, _ := s.counts()
	if s.points != nil || n == 0 {
		return s.points
	}
	buf := make([]C.double, 3*n)
	var e errbuf
	if C.hs_vertices(s.c, &buf[0], e.ptr()) != 0 {
		s.failed("corners", &e)
		return nil
	}
	runtime.KeepAlive(s)
	s.points = make([]solid.Vec, n)
	for i := range s.points {
		s.points[i] = solid.Vec{float64(buf[3*i]), float64(buf[3*i+1]), float64(buf[3*i+2])}
	}
	return s.points
}

// Solids counts the solids in the shape.
func (s *shape) Solids() int {
	if s.solids < 0 {
		_, _, _, s.solids = s.counts()
	}
	return s.solids
}

var faceKinds = []solid.SurfaceKind{solid.PlaneFace, solid.CylinderFace, solid.ConeFace, solid.SphereFace,
	solid.TorusFace, solid.OtherFace}

// Faces describes all faces.
func (s *shape) Faces() []solid.Face {
	if s.faces != nil {
		return s.faces
	}
	n, _, _, _ := s.counts()
	if n == 0 {
		return nil
	}
	buf := make([]C.hs_face, n)
	var e errbuf
	if C.hs_faces(s.c, &buf[0], e.ptr()) != 0 {
		s.failed("faces", &e)
		return nil
	}
	runtime.KeepAlive(s)
	s.faces = make([]solid.Face, n)
	for i := range buf {
		s.faces[i] = face(&buf[i])
	}
	for i, d := range s.Edges() {
		for _, f := range d.Faces {
			s.faces[f].Edges = append(s.faces[f].Edges, i)
		}
	}
	return s.faces
}

func face(f *C.hs_face) solid.Face {
	return solid.Face{Kind: faceKinds[f.kind], Origin: vec(f.origin), Axis: vec(f.axis), Normal: vec(f.normal),
		Radius: float64(f.r), MinorRadius: float64(f.r2), HalfAngle: float64(f.half_angle), Hollow: f.hollow != 0,
		Area: float64(f.area), Centroid: vec(f.centroid), Bounds: solid.Box{Min: vec(f.lo), Max: vec(f.hi)},
		Span: float64(f.span)}
}

// Surface describes one face, without its edges.
func (s *shape) Surface(i int) solid.Face {
	if s.faces != nil {
		return s.faces[i]
	}
	var f C.hs_face
	var e errbuf
	if C.hs_one_face(s.c, C.int(i), &f, e.ptr()) != 0 {
		s.failed("faces", &e)
	}
	runtime.KeepAlive(s)
	return face(&f)
}

// Edges describes all edges.
func (s *shape) Edges() []solid.Edge {
	if s.edges != nil {
		return s.edges
	}
	_, n, _, _ := s.counts()
	if n == 0 {
		return nil
	}
	buf := make([]C.hs_edge, n)
	var e errbuf
	if C.hs_edges(s.c, &buf[0], e.ptr()) != 0 {
		s.failed("edges", &e)
		return nil
	}
	runtime.KeepAlive(s)
	s.edges = make([]solid.Edge, n)
	for i := range buf {
		s.edges[i] = edge(&buf[i])
	}
	return s.edges
}

var curveKinds = []solid.CurveKind{solid.LineEdge, solid.CircleEdge, solid.OtherEdge}

func edge(d *C.hs_edge) solid.Edge {
	e := solid.Edge{Kind: curveKinds[d.kind], A: vec(d.a), B: vec(d.b), Mid: vec(d.m), Center: vec(d.c), Axis: vec(d.axis),
		Radius: float64(d.r), Length: float64(d.length), Seam: d.seam != 0, Smooth: d.smooth != 0,
		Degenerate: d.degenerate != 0}
	for k := 0; k < int(d.face_count); k++ {
		e.Faces = append(e.Faces, int(d.faces[k]))
	}
	return e
}

func (Kernel) result(r *C.hs_result) (solid.Shape, solid.History, error) {
	s := wrap(r.shape)
	defer C.hs_free(unsafe.Pointer(r.sources))
	n, _, _, _ := s.counts()
	h := make(solid.History, n)
	for _, src := range unsafe.Slice(r.sources, int(r.count)) {
		h[src.face] = append(h[src.face], solid.Source{Operand: int(src.operand), Kind: solid.SourceKind(src.kind),
			Index: int(src.index)})
	}
	return s, h, nil
}

func frame(f solid.Frame) [12]C.double {
	var out [12]C.double
	for i, v := range []solid.Vec{f.O, f.X, f.Y, f.Z} {
		for k := range 3 {
			out[3*i+k] = C.double(v[k])
		}
	}
	return out
}

func triple(v solid.Vec) [3]C.double {
	return [3]C.double{C.double(v[0]), C.double(v[1]), C.double(v[2])}
}

// profile lays a profile out for the shim; extra holds the poles and knots of
// its splines and is never empty.
func profile(p solid.Profile) (segs []C.hs_segment, extra []C.double, sizes []C.int) {
	kinds := map[string]C.int{"line": 0, "arc": 1, "circle": 2, "ellipse": 3, "spline": 4}
	pair := func(v [2]float64) [2]C.double { return [2]C.double{C.double(v[0]), C.double(v[1])} }
	extra = []C.double{0}
	for _, l := range p.Loops {
		sizes = append(sizes, C.int(len(l)))
		for _, g := range l {
			s := C.hs_segment{kind: kinds[g.Kind], a: pair(g.A), b: pair(g.B), m: pair(g.Mid), c: pair(g.Center),
				r: C.double(g.Radius),
				u: pair(g.U), v: pair(g.V), lo: C.double(g.Lo), hi: C.double(g.Hi), poles: C.int(len(g.Poles)),
				extra: C.int(len(extra))}
			if g.Forward {
				s.forward = 1
			}
			for _, q := range g.Poles {
				extra = append(extra, C.double(q[0]), C.double(q[1]))
			}
			for _, k := range g.Knots {
				extra = append(extra, C.double(k))
			}
			segs = append(segs, s)
		}
	}
	return segs, extra, sizes
}

// Prism sweeps a profile along a vector.
func (k Kernel) Prism(p solid.Profile, along solid.Vec) (solid.Shape, solid.History, error) {
	segs, extra, sizes := profile(p)
	f, a := frame(p.Frame), triple(along)
	var e errbuf
	var r C.hs_result
	if C.hs_prism(&f[0], &segs[0], &extra[0], &sizes[0], C.int(len(sizes)), &a[0], &r, e.ptr()) != 0 {
		return nil, nil, e.err()
	}
	return k.result(&r)
}

// Revolve turns a profile about an axis.
func (k Kernel) Revolve(p solid.Profile, origin, axis solid.Vec, angle float64) (solid.Shape, solid.History, error) {
	segs, extra, sizes := profile(p)
	f, o, a := frame(p.Frame), triple(origin), triple(axis)
	var e errbuf
	var r C.hs_result
	if C.hs_revolve(&f[0], &segs[0], &extra[0], &sizes[0], C.int(len(sizes)), &o[0], &a[0], C.double(angle), &r,
		e.ptr()) != 0 {
		return nil, nil, e.err()
	}
	return k.result(&r)
}

// Boolean unites, subtracts or intersects.
func (k Kernel) Boolean(op solid.Operation, a solid.Shape, tools []solid.Shape) (solid.Shape, solid.History, error) {
	return k.many(tools, func(list **C.hs_shape, n C.int, r *C.hs_result, e *errbuf) C.int {
		defer runtime.KeepAlive(a)
		return C.hs_boolean(C.int(op), unwrap(a).c, list, n, r, e.ptr())
	})
}

// Differ gives what one solid has beyond another, and what the other has beyond it, from one
// intersection; what coincides may lie apart by fuzzy.
func (Kernel) Differ(a, b solid.Shape, fuzzy float64) (more, less solid.Shape, err error) {
	return pair(a, b, func(x, y **C.hs_shape, e *errbuf) C.int {
		return C.hs_differ(unwrap(a).c, unwrap(b).c, C.double(fuzzy), x, y, e.ptr())
	})
}

// Overlap gives what two solids share and both as one, from one intersection; what coincides may lie
// apart by fuzzy.
func (Kernel) Overlap(a, b solid.Shape, fuzzy float64) (shared, whole solid.Shape, err error) {
	return pair(a, b, func(x, y **C.hs_shape, e *errbuf) C.int {
		return C.hs_overlap(unwrap(a).c, unwrap(b).c, C.double(fuzzy), x, y, e.ptr())
	})
}

// pair is a call that makes two shapes of two.
func pair(a, b solid.Shape, call func(x, y **C.hs_shape, e *errbuf) C.int) (first, second solid.Shape, err error) {
	var e errbuf
	var x, y *C.hs_shape
	code := call(&x, &y, &e)
	runtime.KeepAlive(a)
	runtime.KeepAlive(b)
	if code != 0 {
		return nil, nil, e.err()
	}
	return wrap(x), wrap(y), nil
}

// Compound puts solids side by side without joining them.
func (k Kernel) Compound(list []solid.Shape) (solid.Shape, solid.History, error) {
	return k.many(list, func(c **C.hs_shape, n C.int, r *C.hs_result, e *errbuf) C.int {
		return C.hs_compound(c, n, r, e.ptr())
	})
}

// handles lays shapes out for the shim; the memory must be freed.
func handles(list []solid.Shape) **C.hs_shape {
	p := (**C.hs_shape)(C.malloc(C.size_t(len(list)) * C.size_t(unsafe.Sizeof(uintptr(0)))))
	for i, s := range list {
		unsafe.Slice(p, len(list))[i] = unwrap(s).c
	}
	return p
}

func (k Kernel) many(list []solid.Shape, call func(**C.hs_shape, C.int, *C.hs_result, *errbuf) C.int) (solid.Shape,
	solid.History, error) {
	if len(list) == 0 {
		return nil, nil, errors.New("there is nothing to combine with")
	}
	p := handles(list)
	defer C.free(unsafe.Pointer(p))
	var e errbuf
	var r C.hs_result
	code := call(p, C.int(len(list)), &r, &e)
	runtime.KeepAlive(list)
	if code != 0 {
		return nil, nil, e.err()
	}
	return k.result(&r)
}

// on runs an operation of the shim on one shape.
func (k Kernel) on(s solid.Shape, call func(*C.hs_shape, *C.hs_result, *C.char) C.int) (solid.Shape,
	solid.History, error) {
	var e errbuf
	var r C.hs_result
	code := call(unwrap(s).c, &r, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, nil, e.err()
	}
	return k.result(&r)
}

// ints and reals copy numbers for the shim; there is always a first one to point to.
func ints(v []int) []C.int {
	out := make([]C.int, len(v), len(v)+1)
	for i, x := range v {
		out[i] = C.int(x)
	}
	return out[:cap(out)]
}

func reals(v []float64) []C.double {
	out := make([]C.double, len(v), len(v)+1)
	for i, x := range v {
		out[i] = C.double(x)
	}
	return out[:cap(out)]
}

// Sweep moves a profile along a path.
func (k Kernel) Sweep(p solid.Profile, path solid.Path, keepDirections bool) (solid.Shape, solid.History, error) {
	segs, extra, sizes := profile(p)
	f, pf := frame(p.Frame), frame(path.Frame)
	along, pathExtra, _ := profile(solid.Profile{Loops: [][]solid.Segment{path.Pieces}})
	along = append(along, C.hs_segment{}) // there is always one to point to
	flag := func(b bool) C.int {
		if b {
			return 1
		}
		return 0
	}
	var helix *C.double
	if h := path.Helix; h != nil {
		helix = &[]C.double{C.double(h.Radius), C.double(h.Pitch), C.double(h.Turns), C.double(flag(h.Left))}[0]
	}
	var e errbuf
	var r C.hs_result
	if C.hs_sweep(&f[0], &segs[0], &extra[0], &sizes[0], C.int(len(sizes)), &pf[0], &along[0], &pathExtra[0],
		C.int(len(path.Pieces)), flag(path.Closed), helix, flag(keepDirections), &r, e.ptr()) != 0 {
		return nil, nil, e.err()
	}
	return k.result(&r)
}

// Loft runs a solid through the outer boundaries of sections.
func (k Kernel) Loft(sections []solid.Profile, ruled bool) (solid.Shape, solid.History, error) {
	var all solid.Profile
	var frames []C.double
	for _, s := range sections {
		all.Loops = append(all.Loops, s.Loops[0])
		f := frame(s.Frame)
		frames = append(frames, f[:]...)
	}
	segs, extra, sizes := profile(all)
	r := C.int(0)
	if ruled {
		r = 1
	}
	var e errbuf
	var out C.hs_result
	if C.hs_loft(&frames[0], &segs[0], &extra[0], &sizes[0], C.int(len(sections)), r, &out, e.ptr()) != 0 {
		return nil, nil, e.err()
	}
	return k.result(&out)
}

// Fillet rounds edges, each with its radius; tangent edges follow.
func (k Kernel) Fillet(s solid.Shape, edges []int, radii []float64) (solid.Shape, solid.History, error) {
	return k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int {
		return C.hs_fillet(c, &ints(edges)[0], &reals(radii)[0], C.int(len(edges)), r, e)
	})
}

// Chamfer bevels edges; tangent edges follow.
func (k Kernel) Chamfer(s solid.Shape, bevels []solid.Bevel) (solid.Shape, solid.History, error) {
	var edges, faces []int
	var first, second []float64
	for _, b := range bevels {
		edges, faces = append(edges, b.Edge), append(faces, b.Face)
		first, second = append(first, b.First), append(second, b.Second)
	}
	return k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int {
		return C.hs_chamfer(c, &ints(edges)[0], &ints(faces)[0], &reals(first)[0], &reals(second)[0], C.int(len(edges)), r, e)
	})
}

// Shell leaves walls along all faces but the open ones: inwards where thickness is
// negative.
func (k Kernel) Shell(s solid.Shape, open []int, thickness float64) (solid.Shape, solid.History, error) {
	return k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int {
		return C.hs_shell(c, &ints(open)[0], C.int(len(open)), C.double(thickness), r, e)
	})
}

// Offset moves all faces outwards by a distance, or inwards by a negative one.
func (k Kernel) Offset(s solid.Shape, distance float64) (solid.Shape, solid.History, error) {
	return k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int {
		return C.hs_offset(c, C.double(distance), r, e)
	})
}

// Draft tilts faces about where they meet the neutral plane, so that the part
// tapers along the plane's normal for a positive angle.
func (k Kernel) Draft(s solid.Shape, faces []int, neutral solid.Frame,
	angle float64) (solid.Shape, solid.History, error) {
	f := frame(neutral)
	return k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int {
		return C.hs_draft(c, &ints(faces)[0], C.int(len(faces)), &f[0], C.double(angle), r, e)
	})
}

// Section gives the curves in which a plane cuts the faces; each names its face.
func (Kernel) Section(s solid.Shape, plane solid.Frame) ([]solid.Edge, error) {
	f := frame(plane)
	var e errbuf
	var list *C.hs_edge
	var runs *C.double
	var n C.int
	code := C.hs_section(unwrap(s).c, &f[0], &list, &runs, &n, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, e.err()
	}
	defer C.hs_free(unsafe.Pointer(list))
	defer C.hs_free(unsafe.Pointer(runs))
	var out []solid.Edge
	for i := range int(n) {
		one := edge(&unsafe.Slice(list, int(n))[i])
		if one.Kind == solid.OtherEdge {
			one.Run = run(unsafe.Slice(runs, int(n)*3*C.HS_RUN)[3*C.HS_RUN*i:])
		}
		out = append(out, one)
	}
	return out, nil
}

// Along gives points at about equal lengths along an edge, its ends among them.
func (Kernel) Along(s solid.Shape, edge int) ([]solid.Vec, error) {
	var points [3 * C.HS_RUN]C.double
	var e errbuf
	code := C.hs_run(unwrap(s).c, C.int(edge), &points[0], e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, e.err()
	}
	return run(points[:]), nil
}

func run(points []C.double) []solid.Vec {
	out := make([]solid.Vec, C.HS_RUN)
	for k := range out {
		out[k] = vec([3]C.double(points[3*k:]))
	}
	return out
}

// Sample gives n by n places of the surface of a face, within its bounds, with the outward
// normals there.
func (Kernel) Sample(s solid.Shape, face, n int) (points, normals []solid.Vec, err error) {
	p, q := make([]C.double, 3*n*n), make([]C.double, 3*n*n)
	var e errbuf
	code := C.hs_sample(unwrap(s).c, C.int(face), C.int(n), &p[0], &q[0], e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, nil, e.err()
	}
	for k := range n * n {
		points, normals = append(points, vec([3]C.double(p[3*k:]))), append(normals, vec([3]C.double(q[3*k:])))
	}
	return points, normals, nil
}

// Splines gives the same solid with all its curves and surfaces as splines, as programs
// write it that know no others.
func (Kernel) Splines(s solid.Shape) (solid.Shape, error) {
	var e errbuf
	var c *C.hs_shape
	code := C.hs_splines(unwrap(s).c, &c, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, e.err()
	}
	return wrap(c), nil
}

// Distance measures the shortest distance between two parts and where it is.
func (Kernel) Distance(a, b solid.Pick) (distance float64, onA, onB solid.Vec, err error) {
	var e errbuf
	var d C.double
	var pa, pb [3]C.double
	code := C.hs_distance(unwrap(a.Shape).c, C.int(a.Kind), C.int(a.Index), unwrap(b.Shape).c, C.int(b.Kind),
		C.int(b.Index), &d, &pa[0], &pb[0], e.ptr())
	runtime.KeepAlive(a)
	runtime.KeepAlive(b)
	if code != 0 {
		return 0, onA, onB, e.err()
	}
	return float64(d), vec(pa), vec(pb), nil
}

// Transform moves, turns or mirrors.
func (k Kernel) Transform(s solid.Shape, t solid.Transform) (solid.Shape, solid.History, error) {
	var m [12]C.double
	for i := range 3 {
		for j := range 3 {
			m[4*i+j] = C.double(t.M[i][j])
		}
		m[4*i+3] = C.double(t.T[i])
	}
	return k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int { return C.hs_transform(c, &m[0], r, e) })
}

// Simplify joins neighbouring faces that lie on one surface.
func (k Kernel) Simplify(s solid.Shape) (simple solid.Shape, h solid.History, whole bool, err error) {
	var all C.int
	simple, h, err = k.on(s, func(c *C.hs_shape, r *C.hs_result, e *C.char) C.int { return C.hs_simplify(c, &all, r, e) })
	return simple, h, all != 0, err
}

// Props measures volume, area, centroid and inertia.
func (Kernel) Props(s solid.Shape) (solid.Props, error) {
	if known := unwrap(s).props; known != nil {
		return *known, nil
	}
	var e errbuf
	var p C.hs_props
	code := C.hs_mass(unwrap(s).c, &p, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return solid.Props{}, e.err()
	}
	out := solid.Props{Volume: float64(p.volume), Area: float64(p.area), Centroid: vec(p.centroid)}
	for i := range 3 {
		for j := range 3 {
			out.Inertia[i][j] = float64(p.inertia[3*i+j])
		}
	}
	unwrap(s).props = &out
	return out, nil
}

// Bounds is the tight axis-aligned box.
func (Kernel) Bounds(s solid.Shape) (solid.Box, error) { return bounds(s, 1) }

// Around gives a box around a shape that may be larger than it, many times as fast.
func (Kernel) Around(s solid.Shape) (solid.Box, error) { return bounds(s, 0) }

func bounds(s solid.Shape, exact C.int) (solid.Box, error) {
	var e errbuf
	var lo, hi [3]C.double
	code := C.hs_bounds(unwrap(s).c, exact, &lo[0], &hi[0], e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return solid.Box{}, e.err()
	}
	return solid.Box{Min: vec(lo), Max: vec(hi)}, nil
}

// Check says why a shape is not sound, or nil.
func (Kernel) Check(s solid.Shape) error {
	var e errbuf
	code := C.hs_check(unwrap(s).c, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return e.err()
	}
	return nil
}

// Mesh triangulates with the given largest deflection and angle.
func (Kernel) Mesh(s solid.Shape, deflection, angle float64) (*solid.Mesh, error) {
	var e errbuf
	var m C.hs_mesh
	code := C.hs_tessellate(unwrap(s).c, C.double(deflection), C.double(angle), &m, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, e.err()
	}
	defer func() {
		for _, p := range []unsafe.Pointer{unsafe.Pointer(m.vertices), unsafe.Pointer(m.triangles), unsafe.Pointer(m.faces),
			unsafe.Pointer(m.line_points), unsafe.Pointer(m.line_sizes)} {
			C.hs_free(p)
		}
	}()
	out := &solid.Mesh{}
	for _, v := range unsafe.Slice(m.vertices, 3*int(m.vertex_count)) {
		out.Vertices = append(out.Vertices, float64(v))
	}
	for _, t := range unsafe.Slice(m.triangles, 3*int(m.triangle_count)) {
		out.Triangles = append(out.Triangles, int32(t))
	}
	for _, f := range unsafe.Slice(m.faces, int(m.triangle_count)) {
		out.Faces = append(out.Faces, int32(f))
	}
	sizes := unsafe.Slice(m.line_sizes, int(m.line_count))
	total := 0
	for _, n := range sizes {
		total += int(n)
	}
	pts := unsafe.Slice(m.line_points, 3*total)
	for _, n := range sizes {
		run := make([]float64, 3*int(n))
		for i := range run {
			run[i] = float64(pts[i])
		}
		pts = pts[3*int(n):]
		out.Lines = append(out.Lines, run)
	}
	return out, nil
}

// View projects along -Z of the frame with hidden lines found.
func (Kernel) View(s solid.Shape, f solid.Frame) ([]solid.ViewCurve, error) {
	var e errbuf
	var list *C.hs_curve
	var n C.int
	fr := frame(f)
	code := C.hs_view(unwrap(s).c, &fr[0], &list, &n, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, e.err()
	}
	defer C.hs_free(unsafe.Pointer(list))
	kinds := []string{"line", "arc", "run"}
	var out []solid.ViewCurve
	for _, c := range unsafe.Slice(list, int(n)) {
		v := solid.ViewCurve{Hidden: c.hidden != 0, Smooth: c.smooth != 0, Outline: c.outline != 0, Kind: kinds[c.kind],
			Center: [2]float64{float64(c.c[0]), float64(c.c[1])}, Radius: float64(c.r), Start: float64(c.start),
			Sweep: float64(c.sweep), Edge: int(c.edge), Face: int(c.face)}
		pts := unsafe.Slice(c.points, 2*int(c.count))
		for i := 0; i < len(pts); i += 2 {
			v.Points = append(v.Points, [2]float64{float64(pts[i]), float64(pts[i+1])})
		}
		C.hs_free(unsafe.Pointer(c.points))
		out = append(out, v)
	}
	return out, nil
}

// Split gives every solid of a shape by itself.
func (Kernel) Split(s solid.Shape) ([]solid.Shape, error) {
	var e errbuf
	var list **C.hs_shape
	var n C.int
	code := C.hs_split(unwrap(s).c, &list, &n, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, e.err()
	}
	defer C.hs_free(unsafe.Pointer(list))
	var out []solid.Shape
	for _, c := range unsafe.Slice(list, int(n)) {
		out = append(out, wrap(c))
	}
	return out, nil
}

// Sew joins faces whose edges lie at most a tolerance apart. It gives the solids of the
// shells that close, nil where none does, and how many edges stay open.
func (Kernel) Sew(s solid.Shape, tolerance float64) (solids solid.Shape, open int, err error) {
	var e errbuf
	var c *C.hs_shape
	var n, free C.int
	code := C.hs_sew(unwrap(s).c, C.double(tolerance), &c, &n, &free, e.ptr())
	runtime.KeepAlive(s)
	if code != 0 {
		return nil, 0, e.err()
	}
	if c == nil {
		return nil, int(free), nil
	}
	return wrap(c), int(free), nil
}

// ReadSTEP reads a STEP file; lengths are converted to millimetres. What it says beside its
// geometry comes from its entities as the library reads them.
func (Kernel) ReadSTEP(ctx context.Context, data []byte) (*solid.Content, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if len(data) == 0 {
		return nil, errors.New("the file is empty")
	}
	var e errbuf
	var f C.hs_step
	p := C.CBytes(data)
	defer C.free(p)
	if C.hs_read_step((*C.char)(p), C.size_t(len(data)), &f, e.ptr()) != 0 {
		return nil, e.err()
	}
	defer C.hs_free_step(&f)
	name := func(at C.int) string { return C.GoString((*C.char)(unsafe.Add(unsafe.Pointer(f.names), int(at)))) }
	out := &solid.Content{Solids: int(f.solids), Shells: int(f.shells), Wires: int(f.wires), Unit: float64(f.unit),
		Uncertainty: float64(f.uncertainty),
		Schema:      name(f.schema), Colours: int(f.colour_count)}
	if f.shape != nil {
		out.Shape = wrap(f.shape)
	}
	if f.loose != nil {
		out.Loose = wrap(f.loose)
	}
	rgb := unsafe.Slice((*float64)(unsafe.Pointer(f.colours)), 3*int(f.colour_count))
	parts := unsafe.Slice(f.parts, int(f.part_count))
	for i := range parts {
		x := &parts[i]
		part := solid.FilePart{Name: name(x.name), Shape: wrap(x.shape), Volume: float64(x.volume), Area: float64(x.area)}
		x.shape = nil // it belongs to the part now
		if c := int(x.colour); c >= 0 {
			part.Colour = &[3]float64{rgb[3*c], rgb[3*c+1], rgb[3*c+2]}
		}
		out.Parts = append(out.Parts, part)
	}
	for _, n := range unsafe.Slice(f.nodes, int(f.node_count)) {
		c := solid.Component{Name: name(n.name), Occurrence: name(n.occurrence), Parent: int(n.parent), Part: int(n.part),
			File: name(n.file)}
		for r := range 3 {
			for k := range 3 {
				c.Place.M[r][k] = float64(n.place[4*r+k])
			}
			c.Place.T[r] = float64(n.place[4*r+3])
		}
		out.Tree = append(out.Tree, c)
		if c.Parent >= 0 {
			out.Components++
		}
		if c.Name != "" && len(out.Names) < mostNames && !slices.Contains(out.Names, c.Name) {
			out.Names = append(out.Names, c.Name)
		}
	}
	return out, nil
}

// mostNames bounds the names of products that are told.
const mostNames = 50

var plainName = regexp.MustCompile(`[^A-Za-z0-9 _.-]`)

// WriteSTEP writes solids, each as a product with its name, in millimetres.
func (Kernel) WriteSTEP(list []solid.Titled, title string, schema solid.Schema) ([]byte, error) {
	if len(list) == 0 {
		return nil, errors.New("there is nothing to write")
	}
	var shapes []solid.Shape
	names := (**C.char)(C.malloc(C.size_t(len(list)) * C.size_t(unsafe.Sizeof(uintptr(0)))))
	defer C.free(unsafe.Pointer(names))
	text := func(s string) *C.char { return C.CString(plainName.ReplaceAllString(s, "_")) }
	for i, t := range list {
		shapes = append(shapes, t.Shape)
		c := text(t.Name)
		defer C.free(unsafe.Pointer(c))
		unsafe.Slice(names, len(list))[i] = c
	}
	p := handles(shapes)
	defer C.free(unsafe.Pointer(p))
	head := text(title)
	defer C.free(unsafe.Pointer(head))
	return printed(func(data **C.char, size *C.size_t, e *errbuf) C.int {
		code := C.hs_write_step(p, names, C.int(len(list)), head, schemaNumber(schema), data, size, e.ptr())
		runtime.KeepAlive(list)
		return code
	})
}

// WriteAssembly writes products made of products, in millimetres: the first is the whole.
func (Kernel) WriteAssembly(products []solid.Product, title string, schema solid.Schema) ([]byte, error) {
	if len(products) == 0 {
		return nil, errors.New("there is nothing to write")
	}
	if err := solid.CheckProducts(products); err != nil {
		return nil, err
	}
	var texts []*C.char
	defer func() {
		for _, t := range texts {
			C.free(unsafe.Pointer(t))
		}
	}()
	text := func(s string) *C.char {
		texts = append(texts, C.CString(plainName.ReplaceAllString(s, "_")))
		return texts[len(texts)-1]
	}
	count := 0
	for _, x := range products {
		count += len(x.Uses)
	}
	list := (*C.hs_product)(C.calloc(C.size_t(len(products)), C.size_t(unsafe.Sizeof(C.hs_product{}))))
	defer C.free(unsafe.Pointer(list))
	uses := (*C.hs_use)(C.calloc(C.size_t(max(1, count)), C.size_t(unsafe.Sizeof(C.hs_use{}))))
	defer C.free(unsafe.Pointer(uses))
	at := 0
	for i, x := range products {
		p := &unsafe.Slice(list, len(products))[i]
		p.name, p.first_use, p.use_count = text(x.Name), C.int(at), C.int(len(x.Uses))
		p.volume, p.area = C.double(x.Volume), C.double(x.Area)
		if x.Shape != nil {
			p.shape = unwrap(x.Shape).c
		}
		if x.Colour != nil {
			p.coloured = 1
			for k, v := range x.Colour {
				p.rgb[k] = C.double(v)
			}
		}
		for _, u := range x.Uses {
			c := &unsafe.Slice(uses, count)[at]
			at++
			c.product, c.name = C.int(u.Product), text(u.Name)
			for r := range 3 {
				for k := range 3 {
					c.place[4*r+k] = C.double(u.Place.M[r][k])
				}
				c.place[4*r+3] = C.double(u.Place.T[r])
			}
		}
	}
	head := text(title)
	return printed(func(data **C.char, size *C.size_t, e *errbuf) C.int {
		code := C.hs_write_assembly(list, C.int(len(products)), uses, head, schemaNumber(schema), data, size, e.ptr())
		runtime.KeepAlive(products)
		return code
	})
}

func schemaNumber(s solid.Schema) C.int {
	return map[solid.Schema]C.int{solid.AP214: 4, solid.AP242: 5}[s]
}

// printed takes over the text of a STEP file.
func printed(write func(data **C.char, size *C.size_t, e *errbuf) C.int) ([]byte, error) {
	var e errbuf
	var data *C.char
	var size C.size_t
	if write(&data, &size, &e) != 0 {
		return nil, e.err()
	}
	defer C.hs_free(unsafe.Pointer(data))
	if size > math.MaxInt32 {
		return nil, fmt.Errorf("the STEP file is larger than %s bytes", strconv.Itoa(math.MaxInt32))
	}
	return C.GoBytes(unsafe.Pointer(data), C.int(size)), nil
}
