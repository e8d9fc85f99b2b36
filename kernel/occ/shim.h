// A thin C interface to the Open CASCADE library. It decides nothing: it calls,
// turns every exception into an error text, and reports which result faces came
// from which operand faces, edges and vertices.
#ifndef HAMMERSET_SHIM_H
#define HAMMERSET_SHIM_H
#include <stddef.h>
#ifdef __cplusplus
extern "C" {
#endif

typedef struct hs_shape hs_shape;

#define HS_ERR 512

// One boundary piece of a profile; kind 0 line, 1 arc through m, 2 circle, 3
// ellipse c + u cos t + v sin t from lo to hi, 4 cubic B-spline from lo to hi with
// its poles (pairs) and then its poles + 4 knots at extra. forward 0 runs it from
// hi to lo.
typedef struct {
  int kind, forward, poles, extra;
  double a[2], b[2], m[2], c[2], r, u[2], v[2], lo, hi;
} hs_segment;

// A result face (0-based) and its source; see solid.SourceKind.
typedef struct {
  int face, operand, kind, index;
} hs_source;

typedef struct {
  hs_shape *shape;
  hs_source *sources;
  int count;
} hs_result;

typedef struct {
  int kind, hollow;
  double origin[3], axis[3], normal[3];
  double r, r2, half_angle, area, centroid[3], lo[3], hi[3], span;
} hs_face;

typedef struct {
  int kind, seam, smooth, degenerate;
  double a[3], b[3], m[3], c[3], axis[3], r, length;
  int faces[2], face_count;
} hs_edge;

typedef struct {
  double volume, area, centroid[3], inertia[9];
} hs_props;

typedef struct {
  int hidden, smooth, outline, kind, count; // kind 0 line, 1 arc, 2 run of points
  double *points;                           // 2 * count
  double c[2], r, start, sweep;
  int edge, face; // the edge of the shape that it is, or the face whose silhouette it is; -1 where neither is known
} hs_curve;

typedef struct {
  double *vertices;
  int vertex_count;
  int *triangles, *faces;
  int triangle_count;
  double *line_points;
  int *line_sizes;
  int line_count;
} hs_mesh;

// A component of a STEP file: its parent (-1 at a root), its place in it (three rows of four), and the
// number of its part, -1 of what is made of others or is in another file, which it names then. Names are places in
// hs_step.names.
typedef struct {
  int parent, part, name, occurrence, file;
  double place[12];
} hs_node;

// A part of a STEP file, with what the file says that it measures (0: nothing) and the number of its
// colour (-1: none).
typedef struct {
  hs_shape *shape;
  int name, colour;
  double volume, area;
} hs_part;

// What a STEP file holds. loose: faces outside solids, null where there are none. unit: of its
// lengths, in millimetres, 0 where it states none. colours: red, green and blue of each.
typedef struct {
  hs_shape *shape, *loose;
  int solids, shells, wires;
  double unit, uncertainty;
  int schema;
  hs_part *parts;
  hs_node *nodes;
  double *colours;
  char *names;
  int part_count, node_count, colour_count;
} hs_step;

void hs_free_shape(hs_shape *s);
void hs_free(void *p);

// All return 0, or 1 with a text in err (HS_ERR bytes).
int hs_prism(const double *frame, const hs_segment *segs, const double *extra, const int *loop_sizes, int loops, const double *along, hs_result *out, char *err);
int hs_revolve(const double *frame, const hs_segment *segs, const double *extra, const int *loop_sizes, int loops, const double *origin, const double *axis, double angle, hs_result *out, char *err);
int hs_boolean(int op, hs_shape *a, hs_shape **tools, int count, hs_result *out, char *err);
// A chamfer with faces[i] < 0 takes first[i] on both faces, else first[i] on that
// face and second[i] on the other.
// What a has beyond b and b beyond a, from one intersection. fuzzy is how far apart what
// coincides may lie.
int hs_differ(hs_shape *a, hs_shape *b, double fuzzy, hs_shape **more, hs_shape **less, char *err);
int hs_overlap(hs_shape *a, hs_shape *b, double fuzzy, hs_shape **shared, hs_shape **whole, char *err);
void hs_careful(int on);
int hs_fillet(hs_shape *s, const int *edges, const double *radii, int count, hs_result *out, char *err);
int hs_chamfer(hs_shape *s, const int *edges, const int *faces, const double *first, const double *second, int count, hs_result *out, char *err);
// A sweep along pieces of a plane path or, with helix (radius, pitch, turns, left),
// along that about the z axis of the path's frame. keep leaves the profile's
// directions as they are.
int hs_sweep(const double *frame, const hs_segment *segs, const double *extra, const int *loop_sizes, int loops, const double *path_frame, const hs_segment *path, const double *path_extra, int pieces, int closed, const double *helix, int keep, hs_result *out, char *err);
int hs_loft(const double *frames, const hs_segment *segs, const double *extra, const int *sizes, int sections, int ruled, hs_result *out, char *err);
int hs_shell(hs_shape *s, const int *open, int count, double thickness, hs_result *out, char *err);
int hs_offset(hs_shape *s, double distance, hs_result *out, char *err);
int hs_draft(hs_shape *s, const int *faces, int count, const double *frame, double angle, hs_result *out, char *err);
int hs_compound(hs_shape **list, int count, hs_result *out, char *err);
// runs: of each curve that is neither straight nor round, HS_RUN points at about equal lengths along it.
#define HS_RUN 257
int hs_section(hs_shape *s, const double *frame, hs_edge **out, double **runs, int *count, char *err);
int hs_run(hs_shape *s, int edge, double *points, char *err);
// Kinds of parts: 0 face, 1 edge, 2 vertex, 3 the whole.
int hs_distance(hs_shape *a, int kind_a, int index_a, hs_shape *b, int kind_b, int index_b, double *distance, double *pa, double *pb, char *err);
int hs_vertices(hs_shape *s, double *points, char *err);
int hs_transform(hs_shape *s, const double *matrix, hs_result *out, char *err);
int hs_simplify(hs_shape *s, int *whole, hs_result *out, char *err);
int hs_counts(hs_shape *s, int *faces, int *edges, int *vertices, int *solids, char *err);
int hs_faces(hs_shape *s, hs_face *faces, char *err);
int hs_one_face(hs_shape *s, int index, hs_face *face, char *err);
// n by n places of a face's surface within its bounds, with its outward normals there.
int hs_sample(hs_shape *s, int face, int n, double *points, double *normals, char *err);
// The same solid with all its curves and surfaces as splines.
int hs_splines(hs_shape *s, hs_shape **out, char *err);
int hs_edges(hs_shape *s, hs_edge *edges, char *err);
int hs_mass(hs_shape *s, hs_props *out, char *err);
int hs_bounds(hs_shape *s, int exact, double *lo, double *hi, char *err);
int hs_check(hs_shape *s, char *err);
int hs_tessellate(hs_shape *s, double deflection, double angle, hs_mesh *out, char *err);
int hs_view(hs_shape *s, const double *frame, hs_curve **out, int *count, char *err);
// Sews faces whose edges are at most tolerance apart, and makes solids of the closed shells.
int hs_sew(hs_shape *s, double tolerance, hs_shape **out, int *solids, int *open_edges, char *err);
int hs_split(hs_shape *s, hs_shape ***out, int *count, char *err);
// out must be all zero. What it holds beside shape and loose is freed by hs_free_step, which also frees
// the shapes of parts that are not taken out (set to null).
int hs_read_step(const char *data, size_t size, hs_step *out, char *err);
void hs_free_step(hs_step *s);
// schema: 4 AP214, 5 AP242.
int hs_write_step(hs_shape **list, const char **names, int count, const char *title, int schema, char **data, size_t *size, char *err);


// A product of an assembly: a shape of its own, or so many uses of others. coloured: rgb counts.
// volume and area are stated with it where they are more than 0.
typedef struct {
  const char *name;
  hs_shape *shape;
  int first_use, use_count, coloured;
  double rgb[3];
  double volume, area;
} hs_product;

// A product used in another one: three rows of a rotation and a shift.
typedef struct {
  int product;
  const char *name;
  double place[12];
} hs_use;

// The first product is the whole. No product may be made of itself.
int hs_write_assembly(const hs_product *products, int count, const hs_use *uses, const char *title, int schema, char **data, size_t *size, char *err);

#ifdef __cplusplus
}
#endif
#endif
