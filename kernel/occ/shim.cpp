#include "integrate.h"
#include "shim.h"

#include <APIHeaderSection_MakeHeader.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BOPAlgo_PaveFiller.hxx>
#include <BRepAlgoAPI_Section.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepOffsetAPI_DraftAngle.hxx>
#include <BRepOffsetAPI_MakeOffsetShape.hxx>
#include <BRepOffsetAPI_MakePipe.hxx>
#include <BRepOffsetAPI_MakeThickSolid.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepOffset_MakeOffset.hxx>
#include <Geom2dAdaptor_Curve.hxx>
#include <Geom2d_Line.hxx>
#include <GeomFill_Trihedron.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Interface_Static.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <cerrno>
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <IMeshTools_Parameters.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepTools.hxx>
#include <BRepTools_History.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GCPnts_QuasiUniformDeflection.hxx>
#include <GCPnts_TangentialDeflection.hxx>
#include <GCPnts_QuasiUniformAbscissa.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Ellipse.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GProp_GProps.hxx>
#include <GeomLProp_SLProps.hxx>
#include <Geom_Surface.hxx>
#include <HLRAlgo_Projector.hxx>
#include <HLRBRep_Algo.hxx>
#include <HLRBRep_Data.hxx>
#include <HLRBRep_HLRToShape.hxx>
#include <HLRBRep_ShapeBounds.hxx>
#include <HLRTopoBRep_Data.hxx>
#include <HLRTopoBRep_OutLiner.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <Poly_Triangulation.hxx>
#include <Precision.hxx>
#include <Quantity_Color.hxx>
#include <STEPConstruct.hxx>
#include <STEPConstruct_Styles.hxx>
#include <STEPConstruct_UnitContext.hxx>
#include <STEPConstruct_ValidationProps.hxx>
#include <STEPControl_Controller.hxx>
#include <STEPControl_Reader.hxx>
#include <StepAP214_AppliedDocumentReference.hxx>
#include <StepAP214_AppliedExternalIdentificationAssignment.hxx>
#include <StepAP214_DocumentReferenceItem.hxx>
#include <StepAP214_ExternalIdentificationItem.hxx>
#include <StepBasic_DocumentFile.hxx>
#include <StepBasic_ProductDefinitionWithAssociatedDocuments.hxx>
#include <STEPControl_Writer.hxx>
#include <ShapeFix_Solid.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopTools_MapOfShape.hxx>
#include <array>
#include <Standard_Failure.hxx>
#include <StepBasic_DerivedUnit.hxx>
#include <StepBasic_DerivedUnitElement.hxx>
#include <StepBasic_HArray1OfDerivedUnitElement.hxx>
#include <StepBasic_MeasureValueMember.hxx>
#include <StepBasic_SiUnitAndLengthUnit.hxx>
#include <StepBasic_Product.hxx>
#include <StepBasic_ProductDefinition.hxx>
#include <StepBasic_ProductDefinitionFormation.hxx>
#include <StepGeom_GeomRepContextAndGlobUnitAssCtxAndGlobUncertaintyAssCtx.hxx>
#include <StepGeom_GeometricRepresentationContextAndGlobalUnitAssignedContext.hxx>
#include <StepRepr_GlobalUncertaintyAssignedContext.hxx>
#include <StepRepr_GlobalUnitAssignedContext.hxx>
#include <StepRepr_PropertyDefinition.hxx>
#include <StepRepr_PropertyDefinitionRepresentation.hxx>
#include <StepRepr_Representation.hxx>
#include <StepRepr_CharacterizedDefinition.hxx>
#include <StepRepr_MeasureRepresentationItem.hxx>
#include <StepRepr_ProductDefinitionShape.hxx>
#include <StepShape_ShapeDefinitionRepresentation.hxx>
#include <StepVisual_Colour.hxx>
#include <StepVisual_MechanicalDesignGeometricPresentationRepresentation.hxx>
#include <StepVisual_PresentationStyleAssignment.hxx>
#include <StepVisual_StyledItem.hxx>
#include <TColStd_SequenceOfTransient.hxx>
#include <TransferBRep.hxx>
#include <TransferBRep_ShapeMapper.hxx>
#include <Transfer_FinderProcess.hxx>
#include <Transfer_TransientProcess.hxx>
#include <XSControl_TransferWriter.hxx>
#include <XSControl_TransferReader.hxx>
#include <StepRepr_NextAssemblyUsageOccurrence.hxx>
#include <StepData_Protocol.hxx>
#include <StepData_StepModel.hxx>
#include <StepData_StepWriter.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListIteratorOfListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <XSControl_WorkSession.hxx>
#include <gp_Ax2.hxx>
#include <gp_Circ.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <gp_Trsf.hxx>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <memory>
#include <new>
#include <sstream>
#include <streambuf>
#include <string>
#include <array>
#include <deque>
#include <map>
#include <vector>

struct hs_shape {
  TopoDS_Shape shape;
  TopTools_IndexedMapOfShape faces, edges, vertices;
  explicit hs_shape(const TopoDS_Shape &s) : shape(s) {
    TopExp::MapShapes(s, TopAbs_FACE, faces);
    TopExp::MapShapes(s, TopAbs_EDGE, edges);
    TopExp::MapShapes(s, TopAbs_VERTEX, vertices);
    // The curves of edges on planes are worked out anew each time one is asked for, and
    // kept here once.
    for (int i = 1; i <= faces.Extent(); i++) {
      const TopoDS_Face &f = TopoDS::Face(faces(i));
      for (TopExp_Explorer e(f, TopAbs_EDGE); e.More(); e.Next()) BRepLib::BuildPCurveForEdgeOnPlane(TopoDS::Edge(e.Current()), f);
    }
  }
};

namespace {

enum { FROM_FACE, FROM_EDGE, FROM_VERTEX, CAP_START, CAP_END, OFF_FACE };

void say(char *err, const char *text) {
  std::snprintf(err, HS_ERR, "%s", text && *text ? text : "the geometry library gave up without a reason");
}

// Runs f and turns every exception into an error text.
// careful: every operation is first tried in a copy of the process, so that one that makes
// the library crash, or go on for ever, fails alone. Twice the work: for a task that has
// crashed once.
bool careful = false;
const unsigned longest = 20; // seconds that a tried operation may take

template <class F> bool survives(F f) {
  pid_t copy = fork();
  if (copy < 0) return true; // no copy can be made: it is tried in earnest
  if (copy == 0) {
    for (int s : {SIGSEGV, SIGBUS, SIGFPE, SIGILL, SIGABRT, SIGALRM, SIGXCPU}) signal(s, SIG_DFL);
    sigset_t none;
    sigemptyset(&none);
    sigprocmask(SIG_SETMASK, &none, nullptr);
    alarm(longest);
    try {
      f();
    } catch (...) {
    }
    _exit(0);
  }
  int status = 0;
  while (waitpid(copy, &status, 0) < 0 && errno == EINTR) {
  }
  return WIFEXITED(status);
}

template <class F> int guarded(char *err, F f) {
  if (careful && !survives(f)) {
    say(err, "the geometry library cannot do this");
    return 1;
  }
  try {
    static bool quiet = false;
    if (!quiet) {
      Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
      quiet = true;
    }
    return f();
  } catch (const Standard_Failure &e) {
    const char *m = e.GetMessageString();
    say(err, m && *m ? m : e.DynamicType()->Name());
  } catch (const std::exception &e) {
    say(err, e.what());
  } catch (...) {
    say(err, "unknown failure in the geometry library");
  }
  return 1;
}

int fail(char *err, const char *text) {
  say(err, text);
  return 1;
}

// What a caller is given is owned here until all of it is made, so that nothing is lost where
// making the rest of it fails; then it is released, and the caller frees it.
struct Freed {
  void operator()(void *p) const { std::free(p); }
};
template <class T> using Buffer = std::unique_ptr<T, Freed>;

template <class T> Buffer<T> allocated(size_t n) {
  Buffer<T> p((T *)std::malloc(sizeof(T) * (n + 1)));
  if (!p) throw std::bad_alloc();
  return p;
}

template <class T> Buffer<T> copied(const std::vector<T> &x) {
  auto p = allocated<T>(x.size());
  if (!x.empty()) std::memcpy(p.get(), x.data(), sizeof(T) * x.size());
  return p;
}

gp_Pnt pnt(const double *p) { return gp_Pnt(p[0], p[1], p[2]); }
gp_Dir dir(const double *p) { return gp_Dir(p[0], p[1], p[2]); }
void put(double *d, const gp_XYZ &v) { d[0] = v.X(), d[1] = v.Y(), d[2] = v.Z(); }

// frame is O, X, Y, Z as twelve numbers.
gp_Pnt in_frame(const double *f, const double *p) {
  gp_XYZ r(f[0] + f[3] * p[0] + f[6] * p[1], f[1] + f[4] * p[0] + f[7] * p[1], f[2] + f[5] * p[0] + f[8] * p[1]);
  return gp_Pnt(r);
}

// The ellipse or spline of a profile piece, and the parameters of its ends.
Handle(Geom_Curve) free_curve(const double *f, const hs_segment &s, const double *extra, double &lo, double &hi) {
  lo = s.lo, hi = s.hi;
  if (s.kind == 3) {
    double u = std::hypot(s.u[0], s.u[1]), v = std::hypot(s.v[0], s.v[1]);
    // The library wants the longer half axis first.
    bool swap = v > u;
    const double *x = swap ? s.v : s.u;
    gp_Vec along(f[3] * x[0] + f[6] * x[1], f[4] * x[0] + f[7] * x[1], f[5] * x[0] + f[8] * x[1]);
    if (swap) lo -= M_PI / 2, hi -= M_PI / 2;
    return new Geom_Ellipse(gp_Ax2(in_frame(f, s.c), dir(f + 9), gp_Dir(along)), std::max(u, v), std::min(u, v));
  }
  TColgp_Array1OfPnt poles(1, s.poles);
  for (int i = 0; i < s.poles; i++) poles.SetValue(i + 1, in_frame(f, extra + s.extra + 2 * i));
  const double *k = extra + s.extra + 2 * s.poles;
  std::vector<double> knots;
  std::vector<int> mults;
  for (int i = 0; i < s.poles + 4; i++) {
    if (!knots.empty() && k[i] == knots.back()) mults.back()++;
    else knots.push_back(k[i]), mults.push_back(1);
  }
  TColStd_Array1OfReal kn(1, (int)knots.size());
  TColStd_Array1OfInteger mu(1, (int)knots.size());
  for (size_t i = 0; i < knots.size(); i++) kn.SetValue((int)i + 1, knots[i]), mu.SetValue((int)i + 1, mults[i]);
  return new Geom_BSplineCurve(poles, kn, mu, 3);
}

// Makes the edge of one piece between two vertices.
TopoDS_Edge make_edge(const double *f, const hs_segment &s, const double *extra, const TopoDS_Vertex &va, const TopoDS_Vertex &vb) {
  if (s.kind == 0) return BRepBuilderAPI_MakeEdge(va, vb);
  if (s.kind >= 3) {
    double lo, hi;
    Handle(Geom_Curve) c = free_curve(f, s, extra, lo, hi);
    if (s.kind == 4) {
      Handle(Geom_BSplineCurve) part = Handle(Geom_BSplineCurve)::DownCast(c->Copy());
      part->Segment(lo, hi);
      c = part, lo = part->FirstParameter(), hi = part->LastParameter();
    }
    BRepBuilderAPI_MakeEdge make(c, s.forward ? va : vb, s.forward ? vb : va, lo, hi);
    if (!make.IsDone()) throw Standard_Failure("an ellipse or spline of the profile does not meet its neighbours");
    TopoDS_Edge e = make.Edge();
    if (!s.forward) e.Reverse();
    return e;
  }
  GC_MakeArcOfCircle arc(BRep_Tool::Pnt(va), in_frame(f, s.m), BRep_Tool::Pnt(vb));
  if (!arc.IsDone()) throw Standard_Failure("an arc of the profile is degenerate");
  return BRepBuilderAPI_MakeEdge(arc.Value(), va, vb);
}

// Makes a wire of pieces that follow one another, closed or not. Neighbouring
// pieces share their vertex, so that the wire joins exactly.
TopoDS_Wire make_wire(const double *f, const hs_segment *segs, const double *extra, int count, bool closed, std::vector<TopoDS_Edge> &edges) {
  BRepBuilderAPI_MakeWire wire;
  if (count == 1 && segs->kind == 2) {
    gp_Dir z = dir(f + 9);
    if (!segs->forward) z.Reverse();
    wire.Add(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(in_frame(f, segs->c), z, dir(f + 3)), segs->r)));
    edges.push_back(TopoDS::Edge(wire.Edge()));
    return wire.Wire();
  }
  std::vector<TopoDS_Vertex> ends;
  for (int i = 0; i < count + (closed ? 0 : 1); i++) {
    TopoDS_Vertex v;
    BRep_Builder().MakeVertex(v, in_frame(f, i < count ? segs[i].a : segs[count - 1].b), Precision::Confusion());
    ends.push_back(v);
  }
  for (int i = 0; i < count; i++) {
    wire.Add(make_edge(f, segs[i], extra, ends[i], ends[(i + 1) % ends.size()]));
    if (!wire.IsDone()) throw Standard_Failure("the profile does not close");
    edges.push_back(TopoDS::Edge(wire.Edge()));
  }
  return wire.Wire();
}

// Makes the face of a profile; edges get their numbers in order.
TopoDS_Face make_face(const double *f, const hs_segment *segs, const double *extra, const int *sizes, int loops, std::vector<TopoDS_Edge> &edges) {
  gp_Ax3 ax(pnt(f), dir(f + 9), dir(f + 3));
  std::vector<TopoDS_Wire> wires;
  int at = 0;
  for (int l = 0; l < loops; at += sizes[l], l++) wires.push_back(make_wire(f, segs + at, extra, sizes[l], true, edges));
  BRepBuilderAPI_MakeFace face(gp_Pln(ax), wires[0]);
  for (size_t i = 1; i < wires.size(); i++) face.Add(wires[i]);
  if (!face.IsDone()) throw Standard_Failure("the profile makes no face");
  return face.Face();
}

// Makes a helix about the z axis of a frame, from its x axis upwards.
TopoDS_Wire make_helix(const double *f, double radius, double pitch, double turns, int left) {
  gp_Ax3 ax(pnt(f), dir(f + 9), dir(f + 3));
  Handle(Geom_Surface) s = new Geom_CylindricalSurface(ax, radius);
  double step = left ? -2 * M_PI : 2 * M_PI, length = turns * std::hypot(step, pitch);
  Handle(Geom2d_Line) line = new Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(step, pitch));
  TopoDS_Edge e = BRepBuilderAPI_MakeEdge(line, s, 0, length);
  BRepLib::BuildCurves3d(e, 1e-7, GeomAbs_C2, 14, 2000);
  return BRepBuilderAPI_MakeWire(e);
}

struct Sources {
  std::vector<hs_source> list;
  const TopTools_IndexedMapOfShape &result;
  explicit Sources(const hs_shape *s) : result(s->faces) {}
  void add(const TopoDS_Shape &s, int operand, int kind, int index) {
    for (TopExp_Explorer x(s, TopAbs_FACE); x.More(); x.Next()) {
      int i = result.FindIndex(x.Current());
      if (i > 0) list.push_back({i - 1, operand, kind, index});
    }
  }
  void add(const TopTools_ListOfShape &l, int operand, int kind, int index) {
    for (TopTools_ListIteratorOfListOfShape it(l); it.More(); it.Next()) add(it.Value(), operand, kind, index);
  }
};

void deliver(hs_result *out, std::unique_ptr<hs_shape> s, const Sources &src) {
  auto sources = copied(src.list);
  out->count = (int)src.list.size();
  out->sources = sources.release();
  out->shape = s.release();
}

// Collects the history of one operand from any builder that keeps one.
template <class B> void collect(B &b, hs_shape *operand, int number, Sources &src) {
  for (int i = 1; i <= operand->faces.Extent(); i++) {
    const TopoDS_Shape &f = operand->faces(i);
    const TopTools_ListOfShape &m = b.Modified(f);
    if (!m.IsEmpty()) src.add(m, number, FROM_FACE, i - 1);
    else if (!b.IsDeleted(f)) src.add(f, number, FROM_FACE, i - 1);
  }
  for (int i = 1; i <= operand->edges.Extent(); i++)
    if (!BRep_Tool::Degenerated(TopoDS::Edge(operand->edges(i)))) src.add(b.Generated(operand->edges(i)), number, FROM_EDGE, i - 1);
  for (int i = 1; i <= operand->vertices.Extent(); i++) src.add(b.Generated(operand->vertices(i)), number, FROM_VERTEX, i - 1);
}

// Collects the faces that run beside faces of the operand.
template <class B> void collect_offset(B &b, hs_shape *operand, Sources &src) {
  for (int i = 1; i <= operand->faces.Extent(); i++) src.add(b.Generated(operand->faces(i)), 0, OFF_FACE, i - 1);
}

template <class B> void sweep_result(B &b, const TopoDS_Face &face, const std::vector<TopoDS_Edge> &edges, hs_result *out) {
  auto s = std::make_unique<hs_shape>(b.Shape());
  Sources src(s.get());
  for (size_t i = 0; i < edges.size(); i++) src.add(b.Generated(edges[i]), 0, FROM_EDGE, (int)i);
  src.add(b.FirstShape(face), 0, CAP_START, 0);
  src.add(b.LastShape(face), 0, CAP_END, 0);
  deliver(out, std::move(s), src);
}

// Whether two faces lie on one surface that closes on itself.
bool one_round_surface(const BRepAdaptor_Surface &a, const BRepAdaptor_Surface &b) {
  if (a.GetType() != b.GetType()) return false;
  const double near = 1e-6;
  switch (a.GetType()) {
  case GeomAbs_Cylinder: return std::fabs(a.Cylinder().Radius() - b.Cylinder().Radius()) < near && a.Cylinder().Axis().IsCoaxial(b.Cylinder().Axis(), near, near);
  case GeomAbs_Cone: return a.Cone().Apex().Distance(b.Cone().Apex()) < near && std::fabs(std::fabs(a.Cone().SemiAngle()) - std::fabs(b.Cone().SemiAngle())) < near && a.Cone().Axis().Direction().IsParallel(b.Cone().Axis().Direction(), near);
  case GeomAbs_Sphere: return a.Sphere().Location().Distance(b.Sphere().Location()) < near && std::fabs(a.Sphere().Radius() - b.Sphere().Radius()) < near;
  case GeomAbs_Torus: return a.Torus().Location().Distance(b.Torus().Location()) < near && std::fabs(a.Torus().MajorRadius() - b.Torus().MajorRadius()) < near && std::fabs(a.Torus().MinorRadius() - b.Torus().MinorRadius()) < near && a.Torus().Axis().Direction().IsParallel(b.Torus().Axis().Direction(), near);
  default: return false;
  }
}

// The edges between faces that lie on one round surface, and which faces hang together by them.
struct RoundSeams {
  TopTools_IndexedDataMapOfShapeListOfShape owners;
  TopTools_IndexedMapOfShape faces;
  std::vector<std::array<int, 3>> seams; // edge and the two faces beside it
  std::vector<int> group, size;

  explicit RoundSeams(const TopoDS_Shape &s) {
    TopExp::MapShapesAndAncestors(s, TopAbs_EDGE, TopAbs_FACE, owners);
    TopExp::MapShapes(s, TopAbs_FACE, faces);
    group.resize(faces.Extent() + 1), size.assign(faces.Extent() + 1, 1);
    for (size_t i = 0; i < group.size(); i++) group[i] = (int)i;
    for (int i = 1; i <= owners.Extent(); i++) {
      if (owners(i).Extent() != 2) continue;
      int a = faces.FindIndex(owners(i).First()), b = faces.FindIndex(owners(i).Last());
      if (a == b || !one_round_surface(BRepAdaptor_Surface(TopoDS::Face(faces(a)), Standard_False), BRepAdaptor_Surface(TopoDS::Face(faces(b)), Standard_False))) continue;
      seams.push_back({i, a, b});
      int p = root(a), q = root(b);
      if (p != q) group[p] = q, size[q] += size[p];
    }
  }

  int root(int i) const {
    while (group[i] != i) i = group[i];
    return i;
  }
};

// The library's union of faces on one surface never ends where three or more of them close
// round a cylinder, cone, sphere or ring (seen with four quarters). They are united two at a
// time: apart takes the edges across which nothing is united in this round. Says whether
// another round is needed.
bool pairs_only(const TopoDS_Shape &s, TopTools_MapOfShape &apart) {
  RoundSeams all(s);
  const auto &seams = all.seams;
  const int faces = all.faces.Extent();
  std::vector<int> mate(faces + 1, 0);
  // Only a plain ring is at risk: every face meets two others, each across one edge.
  std::vector<std::vector<int>> beside(faces + 1);
  for (auto &x : seams) beside[x[1]].push_back(x[2]), beside[x[2]].push_back(x[1]);
  std::vector<bool> ring(faces + 1, true);
  for (int i = 1; i <= faces; i++)
    if (beside[i].size() != 2 || beside[i][0] == beside[i][1]) ring[all.root(i)] = false;
  bool more = false;
  for (auto &x : seams) {
    if (all.size[all.root(x[1])] < 3 || !ring[all.root(x[1])]) continue;
    more = true;
    if (!mate[x[1]] && !mate[x[2]]) mate[x[1]] = x[2], mate[x[2]] = x[1];
    if (mate[x[1]] != x[2]) apart.Add(all.owners.FindKey(x[0]));
  }
  return more;
}

// The union of the faces of a shape that lie on one surface, made in steps.
struct Union {
  TopoDS_Shape shape;
  Handle(BRepTools_History) history = new BRepTools_History;
  explicit Union(const TopoDS_Shape &s) : shape(s) {}

  void across_all_but(const TopTools_MapOfShape &apart) {
    ShapeUpgrade_UnifySameDomain u(shape, Standard_True, Standard_True, Standard_False);
    u.KeepShapes(apart);
    u.Build();
    history->Merge(u.History());
    shape = u.Shape();
  }

  void in_rounds(const TopTools_MapOfShape &kept) {
    for (int round = 0; round <= 12; round++) {
      TopTools_MapOfShape apart = kept;
      bool more = round < 12 && pairs_only(shape, apart);
      across_all_but(apart);
      if (!more) break;
    }
  }

  // Where the library cannot unite all (a cylinder that runs smoothly into two sides of a body),
  // it can the flat faces and most other surfaces: one surface after another, and those that it
  // cannot stay as they are. (To unite a part of such a surface makes faces that look sound
  // and cannot be chamfered.) Says whether none was left.
  bool surface_by_surface() {
    TopTools_MapOfShape left, apart;
    for (auto &surface : round_surfaces(left)) for (auto &edge : surface) apart.Add(edge);
    across_all_but(apart);
    for (;;) {
      auto surfaces = round_surfaces(left);
      if (surfaces.empty()) return left.IsEmpty();
      TopTools_MapOfShape others = left;
      for (size_t k = 1; k < surfaces.size(); k++) for (auto &edge : surfaces[k]) others.Add(edge);
      Union next(shape);
      bool united = true;
      try {
        next.in_rounds(others);
        for (auto &surface : next.round_surfaces(left)) united = united && !surface[0].IsSame(surfaces[0][0]);
      } catch (const Standard_Failure &) {
        united = false;
      }
      if (!united) {
        for (auto &edge : surfaces[0]) left.Add(edge);
        continue;
      }
      history->Merge(next.history);
      shape = next.shape;
    }
  }

  // The edges within each round surface that has several faces, without those that are left.
  std::vector<std::vector<TopoDS_Shape>> round_surfaces(const TopTools_MapOfShape &left) const {
    RoundSeams all(shape);
    std::map<int, std::vector<TopoDS_Shape>> by_surface;
    for (auto &x : all.seams)
      if (!left.Contains(all.owners.FindKey(x[0]))) by_surface[all.root(x[1])].push_back(all.owners.FindKey(x[0]));
    std::vector<std::vector<TopoDS_Shape>> out;
    for (auto &x : by_surface) out.push_back(x.second);
    return out;
  }
};

int surface_kind(GeomAbs_SurfaceType t) {
  switch (t) {
  case GeomAbs_Plane: return 0;
  case GeomAbs_Cylinder: return 1;
  case GeomAbs_Cone: return 2;
  case GeomAbs_Sphere: return 3;
  case GeomAbs_Torus: return 4;
  default: return 5;
  }
}

gp_Vec normal_at(const TopoDS_Face &f, double u, double v) {
  BRepGProp_Face g(f);
  gp_Pnt p;
  gp_Vec n;
  g.Normal(u, v, p, n);
  if (n.Magnitude() > 1e-30) n.Normalize();
  return n;
}

// The outward normal as normal_at gives it, without preparing the face for integration.
gp_Vec outward(const TopoDS_Face &f, double u, double v) {
  BRepAdaptor_Surface s(f, Standard_False);
  gp_Pnt p;
  gp_Vec du, dv;
  s.D1(u, v, p, du, dv);
  gp_Vec n = du.Crossed(dv);
  if (n.Magnitude() > 1e-30) n.Normalize();
  return f.Orientation() == TopAbs_REVERSED ? -n : n;
}

// Whether the face is all of its surface between two meridians and two parallels.
bool rectangular(const TopoDS_Face &f) {
  for (TopExp_Explorer it(f, TopAbs_EDGE); it.More(); it.Next()) {
    double t0, t1;
    Handle(Geom2d_Curve) c = BRep_Tool::CurveOnSurface(TopoDS::Edge(it.Current()), f, t0, t1);
    if (c.IsNull()) return false;
    Geom2dAdaptor_Curve a(c, t0, t1);
    if (a.GetType() != GeomAbs_Line) return false;
    gp_Dir2d d = a.Line().Direction();
    if (std::min(std::fabs(d.X()), std::fabs(d.Y())) > 1e-12) return false;
  }
  return true;
}

// The largest of a cos t + b sin t for t from t0 to t1.
double largest_wave(double a, double b, double t0, double t1) {
  double at = std::atan2(b, a);
  at += 2 * M_PI * std::ceil((t0 - at) / (2 * M_PI));
  if (at <= t1) return std::hypot(a, b);
  return std::max(a * std::cos(t0) + b * std::sin(t0), a * std::cos(t1) + b * std::sin(t1));
}

// How far a ring torus reaches along d between meridians u0, u1 and parallels v0, v1: about the axis first, where its
// distance from the axis is never negative, then about the ring.
double torus_reach(const gp_Torus &t, double u0, double u1, double v0, double v1, const gp_Vec &d) {
  gp_Ax3 p = t.Position();
  double across = largest_wave(d.Dot(gp_Vec(p.XDirection())), d.Dot(gp_Vec(p.YDirection())), u0, u1);
  return d.Dot(gp_Vec(p.Location().XYZ())) + t.MajorRadius() * across +
         t.MinorRadius() * largest_wave(across, d.Dot(gp_Vec(p.Direction())), v0, v1);
}

// The tight box of a face. Of a torus the library looks for it by trying thousands of places.
Bnd_Box face_box(const TopoDS_Face &f) {
  Bnd_Box b;
  BRepAdaptor_Surface s(f, Standard_False);
  if (s.GetType() != GeomAbs_Torus || s.Torus().MajorRadius() < s.Torus().MinorRadius() || !rectangular(f)) {
    BRepBndLib::AddOptimal(f, b, Standard_False, Standard_False);
    return b;
  }
  gp_Torus t = s.Torus();
  double u0, u1, v0, v1, reach[2][3];
  BRepTools::UVBounds(f, u0, u1, v0, v1);
  for (int way = 0; way < 2; way++)
    for (int k = 0; k < 3; k++) {
      double sign = way == 0 ? -1 : 1;
      gp_Vec d(k == 0 ? sign : 0, k == 1 ? sign : 0, k == 2 ? sign : 0);
      reach[way][k] = sign * torus_reach(t, u0, u1, v0, v1, d);
    }
  b.Update(reach[0][0], reach[0][1], reach[0][2], reach[1][0], reach[1][1], reach[1][2]);
  return b;
}

void describe_face(const TopoDS_Face &f, hs_face *o) {
  std::memset(o, 0, sizeof *o);
  BRepAdaptor_Surface s(f);
  o->kind = surface_kind(s.GetType());
  double u0, u1, v0, v1;
  BRepTools::UVBounds(f, u0, u1, v0, v1);
  double um = (u0 + u1) / 2, vm = (v0 + v1) / 2;
  gp_Vec n = normal_at(f, um, vm);
  put(o->normal, n.XYZ());
  gp_Pnt mid = s.Value(um, vm);
  switch (o->kind) {
  case 0:
    put(o->origin, s.Plane().Location().XYZ());
    put(o->axis, n.XYZ());
    break;
  case 1:
    put(o->origin, s.Cylinder().Location().XYZ());
    put(o->axis, s.Cylinder().Axis().Direction().XYZ());
    o->r = s.Cylinder().Radius();
    o->span = u1 - u0;
    break;
  case 2: {
    gp_Cone c = s.Cone();
    put(o->origin, c.Location().XYZ());
    // Along the axis the radius grows.
    gp_Dir a = c.Axis().Direction();
    put(o->axis, (c.SemiAngle() < 0 ? a.Reversed() : a).XYZ());
    o->r = c.RefRadius();
    o->half_angle = std::fabs(c.SemiAngle());
    o->span = u1 - u0;
    break;
  }
  case 3:
    put(o->origin, s.Sphere().Location().XYZ());
    put(o->axis, s.Sphere().Position().Direction().XYZ());
    o->r = s.Sphere().Radius();
    o->span = u1 - u0;
    break;
  case 4:
    put(o->origin, s.Torus().Location().XYZ());
    put(o->axis, s.Torus().Axis().Direction().XYZ());
    o->r = s.Torus().MajorRadius();
    o->r2 = s.Torus().MinorRadius();
    o->span = u1 - u0;
    break;
  }
  if (o->kind >= 1 && o->kind <= 4) {
    gp_Vec out(pnt(o->origin), mid);
    if (o->kind == 1 || o->kind == 2 || o->kind == 4) {
      gp_Vec a(dir(o->axis));
      out -= a * out.Dot(a);
    }
    if (o->kind == 4) {
      gp_Vec ring = out.Normalized() * o->r;
      out = gp_Vec(pnt(o->origin).Translated(ring), mid);
    }
    o->hollow = out.Dot(n) < 0;
  }
  GProp_GProps g;
  BRepGProp::SurfaceProperties(f, g);
  o->area = g.Mass();
  put(o->centroid, g.CentreOfMass().XYZ());
  double x0, y0, z0, x1, y1, z1;
  face_box(f).Get(x0, y0, z0, x1, y1, z1);
  o->lo[0] = x0, o->lo[1] = y0, o->lo[2] = z0, o->hi[0] = x1, o->hi[1] = y1, o->hi[2] = z1;
}

void describe_edge(const TopoDS_Edge &e, hs_edge *o) {
  BRepAdaptor_Curve c(e);
  double t0 = c.FirstParameter(), t1 = c.LastParameter();
  put(o->a, c.Value(t0).XYZ());
  put(o->b, c.Value(t1).XYZ());
  put(o->m, c.Value((t0 + t1) / 2).XYZ());
  o->kind = 2;
  if (c.GetType() == GeomAbs_Line) {
    o->kind = 0;
    put(o->axis, c.Line().Direction().XYZ());
    o->length = t1 - t0;
    return;
  }
  if (c.GetType() == GeomAbs_Circle) {
    o->kind = 1;
    put(o->c, c.Circle().Location().XYZ());
    put(o->axis, c.Circle().Axis().Direction().XYZ());
    o->r = c.Circle().Radius();
    o->length = o->r * (t1 - t0);
    return;
  }
  GProp_GProps g;
  BRepGProp::LinearProperties(e, g);
  o->length = g.Mass();
}

void run_along(const TopoDS_Edge &e, double *points) {
  BRepAdaptor_Curve c(e);
  GCPnts_QuasiUniformAbscissa d(c, HS_RUN);
  if (!d.IsDone() || d.NbPoints() != HS_RUN) throw Standard_Failure("the curve cannot be measured along its length");
  for (int i = 0; i < HS_RUN; i++) put(points + 3 * i, c.Value(d.Parameter(i + 1)).XYZ());
}

void sample(const TopoDS_Edge &e, double deflection, std::vector<double> &pts, int dims) {
  BRepAdaptor_Curve c(e);
  if (c.GetType() == GeomAbs_Line) {
    for (double t : {c.FirstParameter(), c.LastParameter()}) {
      gp_Pnt p = c.Value(t);
      pts.push_back(p.X());
      pts.push_back(p.Y());
      if (dims == 3) pts.push_back(p.Z());
    }
    return;
  }
  GCPnts_TangentialDeflection d(c, 0.15, deflection);
  for (int i = 1; i <= d.NbPoints(); i++) {
    gp_Pnt p = d.Value(i);
    pts.push_back(p.X());
    pts.push_back(p.Y());
    if (dims == 3) pts.push_back(p.Z());
  }
}

// Where a curve of a view runs: the smaller end, the middle, the other end, and whether it is hidden.
using Run = std::array<double, 7>;

Run run_of(const BRepAdaptor_Curve &c, int hidden) {
  double t0 = c.FirstParameter(), t1 = c.LastParameter();
  gp_Pnt a = c.Value(t0), m = c.Value((t0 + t1) / 2), b = c.Value(t1);
  if (std::make_pair(b.X(), b.Y()) < std::make_pair(a.X(), a.Y())) std::swap(a, b);
  return {a.X(), a.Y(), m.X(), m.Y(), b.X(), b.Y(), double(hidden)};
}

// Curves of a view, with the points that they run through.
struct Curves {
  std::vector<hs_curve> list;
  std::vector<Buffer<double>> points;
  std::vector<Run> runs;
};

void view_curves(TopoDS_Shape s, int hidden, int smooth, int outline, Curves &out) {
  if (s.IsNull()) return;
  BRepLib::BuildCurves3d(s);
  for (TopExp_Explorer x(s, TopAbs_EDGE); x.More(); x.Next()) {
    const TopoDS_Edge &e = TopoDS::Edge(x.Current());
    hs_curve k;
    std::memset(&k, 0, sizeof k);
    k.edge = k.face = -1;
    k.hidden = hidden, k.smooth = smooth, k.outline = outline;
    BRepAdaptor_Curve c(e);
    double t0 = c.FirstParameter(), t1 = c.LastParameter();
    std::vector<double> pts;
    if (c.GetType() == GeomAbs_Circle) {
      k.kind = 1;
      gp_Circ q = c.Circle();
      k.c[0] = q.Location().X(), k.c[1] = q.Location().Y(), k.r = q.Radius();
      gp_Pnt p = c.Value(t0), m = c.Value((t0 + t1) / 2);
      k.start = std::atan2(p.Y() - k.c[1], p.X() - k.c[0]);
      double am = std::atan2(m.Y() - k.c[1], m.X() - k.c[0]);
      double d = std::remainder(am - k.start, 2 * M_PI);
      k.sweep = (d < 0 ? -1 : 1) * (t1 - t0);
      if (t1 - t0 > 2 * M_PI - 1e-9) k.sweep = 2 * M_PI;
    } else {
      k.kind = c.GetType() == GeomAbs_Line ? 0 : 2;
      sample(e, 0.02, pts, 2);
    }
    k.count = (int)pts.size() / 2;
    out.points.push_back(copied(pts));
    k.points = out.points.back().get();
    out.list.push_back(k);
    out.runs.push_back(run_of(c, hidden));
  }
}

TopoDS_Shape solids_only(const TopoDS_Shape &s, int *count) {
  TopTools_IndexedMapOfShape solids;
  TopExp::MapShapes(s, TopAbs_SOLID, solids);
  *count = solids.Extent();
  if (solids.Extent() == 1) return solids(1);
  TopoDS_Compound c;
  BRep_Builder b;
  b.MakeCompound(c);
  for (int i = 1; i <= solids.Extent(); i++) b.Add(c, solids(i));
  return c;
}

template <class T, class F> void each_of(const Handle(Interface_InterfaceModel) &model, F f) {
  for (int i = 1; i <= model->NbEntities(); i++) {
    Handle(T) x = Handle(T)::DownCast(model->Value(i));
    if (!x.IsNull()) f(x);
  }
}

// What the entities of a STEP file say beside its geometry: units, names, colours, what it should
// measure, and which product is made of which.
class StepFile {
public:
  explicit StepFile(const Handle(XSControl_WorkSession) &ws) : session(ws), model(ws->Model()), results(ws->TransferReader()->TransientProcess()) {
    units();
    files();
    products();
    colours();
    properties();
    header();
  }

  // Gives all of it away. Names stand one after the other, each with its end.
  void release(hs_step *out) {
    auto all_nodes = copied(nodes);
    auto all_colours = copied(rgb);
    auto all_names = copied(std::vector<char>(text.begin(), text.end()));
    auto all_parts = allocated<hs_part>(parts.size());
    for (size_t i = 0; i < parts.size(); i++) {
      all_parts.get()[i] = parts[i];
      all_parts.get()[i].shape = shapes[i].release();
    }
    out->unit = unit, out->uncertainty = uncertainty;
    out->part_count = (int)parts.size(), out->node_count = (int)nodes.size(), out->colour_count = (int)rgb.size() / 3, out->schema = schema;
    out->parts = all_parts.release(), out->nodes = all_nodes.release(), out->colours = all_colours.release(), out->names = all_names.release();
  }

private:
  Handle(XSControl_WorkSession) session;
  Handle(Interface_InterfaceModel) model;
  Handle(Transfer_TransientProcess) results;
  double unit = 0, uncertainty = 0;
  int schema = 0;
  std::string text = std::string(1, '\0'); // the first name is the empty one
  std::vector<hs_node> nodes;
  std::vector<hs_part> parts;
  std::vector<std::unique_ptr<hs_shape>> shapes; // of the parts
  std::vector<Handle(StepBasic_ProductDefinition)> definitions; // of the parts
  std::vector<double> rgb;
  std::map<Handle(StepBasic_ProductDefinition), std::vector<Handle(StepRepr_NextAssemblyUsageOccurrence)>> uses;

  std::map<Handle(StepBasic_ProductDefinition), int> elsewhere; // names of the files that products are in

  template <class T, class F> void each(F f) { each_of<T>(model, f); }

  int name(const Handle(TCollection_HAsciiString) &s) {
    if (s.IsNull() || s->IsEmpty()) return 0;
    int at = (int)text.size();
    text.append(s->ToCString());
    text.push_back('\0');
    return at;
  }

  // The unit of length and the uncertainty of the first context that states them.
  void units() {
    auto unit_of = [&](const Handle(StepRepr_GlobalUnitAssignedContext) &c) {
      STEPConstruct_UnitContext u;
      if (unit > 0 || c.IsNull()) return;
      u.ComputeFactors(c);
      if (u.LengthDone()) unit = u.LengthFactor();
    };
    each<StepGeom_GeomRepContextAndGlobUnitAssCtxAndGlobUncertaintyAssCtx>([&](auto &c) {
      unit_of(c->GlobalUnitAssignedContext());
      Handle(StepRepr_GlobalUncertaintyAssignedContext) g = c->GlobalUncertaintyAssignedContext();
      if (uncertainty > 0 || g.IsNull()) return;
      STEPConstruct_UnitContext u;
      u.ComputeFactors(c->GlobalUnitAssignedContext());
      u.ComputeTolerance(g);
      if (u.HasUncertainty()) uncertainty = u.Uncertainty() * (u.LengthDone() ? u.LengthFactor() : 1);
    });
    each<StepGeom_GeometricRepresentationContextAndGlobalUnitAssignedContext>([&](auto &c) { unit_of(c->GlobalUnitAssignedContext()); });
  }

  // The files in which products are that this one only names (external references of ISO 10303-214). None is opened.
  void files() {
    std::map<Handle(StepBasic_Document), int> called;
    each<StepAP214_AppliedExternalIdentificationAssignment>([&](auto &a) {
      for (int i = 1; !a->Items().IsNull() && i <= a->Items()->Length(); i++)
        if (!a->Items()->Value(i).DocumentFile().IsNull()) called[a->Items()->Value(i).DocumentFile()] = name(a->AssignedId());
    });
    auto in = [&](const Handle(StepBasic_ProductDefinition) &p, const Handle(StepBasic_Document) &d) {
      Handle(StepBasic_DocumentFile) file = Handle(StepBasic_DocumentFile)::DownCast(d);
      if (p.IsNull() || file.IsNull()) return;
      int at = called.count(file) ? called[file] : 0;
      if (!at) at = name(file->Id());
      if (at) elsewhere[p] = at;
    };
    each<StepAP214_AppliedDocumentReference>([&](auto &r) {
      for (int i = 1; !r->Items().IsNull() && i <= r->Items()->Length(); i++) in(r->Items()->Value(i).ProductDefinition(), r->AssignedDocument());
    });
    each<StepBasic_ProductDefinitionWithAssociatedDocuments>([&](auto &p) {
      for (int i = 1; !p->DocIds().IsNull() && i <= p->DocIds()->Length(); i++) in(p, p->DocIds()->Value(i));
    });
  }

  // The tree of products: those that no other one is made of are at its roots.
  void products() {
    std::map<Handle(StepBasic_ProductDefinition), bool> used;
    each<StepRepr_NextAssemblyUsageOccurrence>([&](auto &use) {
      if (use->RelatingProductDefinition().IsNull() || use->RelatedProductDefinition().IsNull()) return;
      uses[use->RelatingProductDefinition()].push_back(use);
      used[use->RelatedProductDefinition()] = true;
    });
    each<StepBasic_ProductDefinition>([&](auto &p) {
      if (!used.count(p)) add(p, -1, nullptr, 0);
    });
  }

  static const int most_nodes = 10000, most_levels = 32; // against hostile files

  void add(const Handle(StepBasic_ProductDefinition) &p, int parent, const Handle(StepRepr_NextAssemblyUsageOccurrence) &use, int level) {
    if ((int)nodes.size() >= most_nodes || level > most_levels) throw Standard_Failure("the file holds more components, or deeper ones, than are read");
    TopoDS_Shape s = TransferBRep::ShapeResult(results, p);
    const bool leaf = uses[p].empty();
    const int file = leaf && elsewhere.count(p) ? elsewhere[p] : 0;
    if (leaf && s.IsNull() && !file) return; // a product without a shape
    hs_node n = {};
    n.file = file;
    n.parent = parent, n.part = -1;
    gp_Trsf place;
    if (!use.IsNull()) {
      n.occurrence = name(use->Name());
      TopoDS_Shape there = TransferBRep::ShapeResult(results, use);
      if (!there.IsNull() && !s.IsNull()) place = there.Location().Transformation() * s.Location().Transformation().Inverted();
    }
    for (int r = 1; r <= 3; r++)
      for (int c = 1; c <= 4; c++) n.place[4 * (r - 1) + c - 1] = place.Value(r, c);
    if (!p->Formation().IsNull() && !p->Formation()->OfProduct().IsNull()) n.name = name(p->Formation()->OfProduct()->Name());
    if (leaf && !file) n.part = part(p, s, n.name);
    int at = (int)nodes.size();
    nodes.push_back(n);
    for (auto &u : uses[p]) add(u->RelatedProductDefinition(), at, u, level + 1);
  }

  // The part of a product; one for all its places.
  int part(const Handle(StepBasic_ProductDefinition) &p, const TopoDS_Shape &s, int called) {
    for (size_t i = 0; i < definitions.size(); i++)
      if (definitions[i] == p) return (int)i;
    int solids;
    shapes.push_back(std::make_unique<hs_shape>(solids_only(s, &solids)));
    definitions.push_back(p);
    hs_part x = {};
    x.name = called, x.colour = -1;
    parts.push_back(x);
    return (int)parts.size() - 1;
  }

  int colour(const Handle(StepVisual_Colour) &c) {
    Quantity_Color q;
    if (c.IsNull() || !STEPConstruct_Styles::DecodeColor(c, q)) return -1;
    double v[3];
    q.Values(v[0], v[1], v[2], Quantity_TOC_sRGB);
    for (size_t i = 0; i + 2 < rgb.size(); i += 3)
      if (std::fabs(rgb[i] - v[0]) + std::fabs(rgb[i + 1] - v[1]) + std::fabs(rgb[i + 2] - v[2]) < 1e-6) return (int)i / 3;
    rgb.insert(rgb.end(), v, v + 3);
    return (int)rgb.size() / 3 - 1;
  }

  // All colours of the file, and of each part the one that is said of it or of its solid.
  void colours() {
    each<StepVisual_Colour>([&](auto &c) { colour(c); });
    STEPConstruct_Styles styles(session);
    if (!styles.LoadStyles()) return;
    for (int i = 1; i <= styles.NbStyles(); i++) {
      Handle(StepVisual_StyledItem) style = styles.Style(i);
      Handle(StepVisual_Colour) surface, boundary, curve, rendered;
      double transparency = 0;
      bool component = false;
      if (style.IsNull() || !styles.GetColors(style, surface, boundary, curve, rendered, transparency, component)) continue;
      TopoDS_Shape s = TransferBRep::ShapeResult(results, style->Item());
      int c = colour(surface);
      if (s.IsNull() || c < 0) continue;
      for (size_t k = 0; k < parts.size(); k++)
        if (s.IsPartner(shapes[k]->shape)) parts[k].colour = c;
    }
  }

  // What the program that wrote the file says that its parts measure.
  void properties() {
    STEPConstruct_ValidationProps props(session);
    TColStd_SequenceOfTransient list;
    if (!props.LoadProps(list)) return;
    for (int i = 1; i <= list.Length(); i++) {
      Handle(StepRepr_PropertyDefinitionRepresentation) r = Handle(StepRepr_PropertyDefinitionRepresentation)::DownCast(list.Value(i));
      if (r.IsNull() || r->UsedRepresentation().IsNull()) continue;
      Handle(StepBasic_ProductDefinition) p = props.GetPropPD(r->Definition().PropertyDefinition());
      for (size_t k = 0; k < parts.size(); k++) {
        if (p.IsNull() || definitions[k] != p) continue;
        for (int n = 1; n <= r->UsedRepresentation()->NbItems(); n++) {
          double value = 0;
          Standard_Boolean area = false;
          if (!props.GetPropReal(r->UsedRepresentation()->ItemsValue(n), value, area)) continue;
          (area ? parts[k].area : parts[k].volume) = value * (area ? unit * unit : unit * unit * unit);
        }
      }
    }
  }

  void header() {
    Handle(StepData_StepModel) m = Handle(StepData_StepModel)::DownCast(model);
    if (m.IsNull()) return;
    APIHeaderSection_MakeHeader h(m);
    if (h.HasFs() && h.NbSchemaIdentifiers() > 0) schema = name(h.SchemaIdentifiersValue(1));
  }
};

void rename(const Handle(StepBasic_Product) &p, const char *name) {
  p->SetName(new TCollection_HAsciiString(name));
  p->SetId(new TCollection_HAsciiString(name));
}

// Prints what was transferred.
int written(STEPControl_Writer &w, const char *title, char **data, size_t *size, char *err) {
  APIHeaderSection_MakeHeader header(w.Model());
  header.SetName(new TCollection_HAsciiString(title));
  StepData_StepWriter out(w.Model());
  out.SendModel(Handle(StepData_Protocol)::DownCast(w.WS()->Protocol()));
  std::ostringstream text;
  if (!out.Print(text)) return fail(err, "the STEP data cannot be written");
  const std::string &t = text.str();
  *data = copied(std::vector<char>(t.begin(), t.end())).release();
  *size = t.size();
  return 0;
}

// An assembly on its way into a STEP file: compounds of placed shapes, which the library writes as products made of
// products, and then what it leaves out: names, colours, and what each part measures.
class StepAssembly {
public:
  STEPControl_Writer writer;

  StepAssembly(const hs_product *p, int n, const hs_use *u) : products(p), count(n), uses(u), shapes(n) {
    make(0);
  }

  bool transfer() {
    writer.Model(Standard_True);
    Interface_Static::SetIVal("write.step.assembly", 1);
    bool done = writer.Transfer(shapes[0], STEPControl_AsIs) == IFSelect_RetDone;
    Interface_Static::SetIVal("write.step.assembly", 2); // as it is without being set
    if (!done) return false;
    finder = writer.WS()->TransferWriter()->FinderProcess();
    for (int i = 0; i < count; i++) called(i);
    measures();
    colours();
    return true;
  }

private:
  const hs_product *products;
  int count;
  const hs_use *uses;
  std::vector<TopoDS_Shape> shapes; // of the products
  Handle(Transfer_FinderProcess) finder;

  TopoDS_Shape placed(const hs_use &u) const {
    gp_Trsf t;
    const double *p = u.place;
    t.SetValues(p[0], p[1], p[2], p[3], p[4], p[5], p[6], p[7], p[8], p[9], p[10], p[11]);
    return shapes[u.product].Located(TopLoc_Location(t));
  }

  // Makes the shape of a product, and first those of what it is made of.
  void make(int i) {
    const hs_product &p = products[i];
    if (!shapes[i].IsNull()) return;
    if (p.shape) {
      shapes[i] = p.shape->shape.Located(TopLoc_Location());
      return;
    }
    TopoDS_Compound c;
    BRep_Builder b;
    b.MakeCompound(c);
    for (int k = 0; k < p.use_count; k++) {
      make(uses[p.first_use + k].product);
      b.Add(c, placed(uses[p.first_use + k]));
    }
    shapes[i] = c;
  }

  Handle(StepShape_ShapeDefinitionRepresentation) definition(int i) const {
    Handle(StepShape_ShapeDefinitionRepresentation) out;
    if (shapes[i].IsNull()) return out; // nothing is made of it
    finder->FindTypedTransient(TransferBRep::ShapeMapper(finder, shapes[i]), STANDARD_TYPE(StepShape_ShapeDefinitionRepresentation), out);
    return out;
  }

  // Names a product and what it is made of: its uses are written in their order.
  void called(int i) {
    Handle(StepShape_ShapeDefinitionRepresentation) def = definition(i);
    if (def.IsNull()) return;
    Handle(StepBasic_ProductDefinition) p = def->Definition().PropertyDefinition()->Definition().ProductDefinition();
    if (p.IsNull()) return;
    rename(p->Formation()->OfProduct(), products[i].name);
    int k = 0;
    each_of<StepRepr_NextAssemblyUsageOccurrence>(writer.Model(), [&](const Handle(StepRepr_NextAssemblyUsageOccurrence) &use) {
      if (use->RelatingProductDefinition() != p || k >= products[i].use_count) return;
      use->SetName(new TCollection_HAsciiString(uses[products[i].first_use + k++].name));
    });
  }

  // A power of the millimetre, in which the library writes.
  static StepBasic_Unit power(int exponent) {
    Handle(StepBasic_SiUnitAndLengthUnit) mm = new StepBasic_SiUnitAndLengthUnit;
    mm->Init(Standard_True, StepBasic_spMilli, StepBasic_sunMetre);
    Handle(StepBasic_DerivedUnitElement) element = new StepBasic_DerivedUnitElement;
    element->Init(mm, exponent);
    Handle(StepBasic_HArray1OfDerivedUnitElement) list = new StepBasic_HArray1OfDerivedUnitElement(1, 1);
    list->SetValue(1, element);
    Handle(StepBasic_DerivedUnit) derived = new StepBasic_DerivedUnit;
    derived->Init(list);
    StepBasic_Unit out;
    out.SetValue(derived);
    return out;
  }

  // States what parts measure (validation properties, ISO 10303-41). The library's own calls would state it of the one
  // solid of a part, where readers do not look for it.
  void measures() {
    STEPConstruct_ValidationProps props(writer.WS());
    const StepBasic_Unit volume = power(3), area = power(2);
    for (int i = 0; i < count; i++) {
      Handle(StepShape_ShapeDefinitionRepresentation) def = definition(i);
      if (def.IsNull()) continue;
      StepRepr_CharacterizedDefinition of;
      of.SetValue(Handle(StepRepr_ProductDefinitionShape)::DownCast(def->Definition().PropertyDefinition()));
      auto state = [&](double value, const char *kind, const StepBasic_Unit &unit, const char *name, const char *what) {
        if (value <= 0) return;
        Handle(StepBasic_MeasureValueMember) v = new StepBasic_MeasureValueMember;
        v->SetName(kind);
        v->SetReal(value);
        Handle(StepRepr_MeasureRepresentationItem) item = new StepRepr_MeasureRepresentationItem;
        item->Init(new TCollection_HAsciiString(name), v, unit);
        props.AddProp(of, def->UsedRepresentation()->ContextOfItems(), item, what);
      };
      state(products[i].volume, "VOLUME_MEASURE", volume, "volume measure", "volume");
      state(products[i].area, "AREA_MEASURE", area, "surface area measure", "surface area");
    }
  }

  void colours() {
    STEPConstruct_Styles styles(writer.WS());
    Handle(StepRepr_RepresentationContext) context;
    for (int i = 0; i < count; i++) {
      if (!products[i].coloured || shapes[i].IsNull()) continue;
      const double *v = products[i].rgb;
      Handle(StepVisual_Colour) c = STEPConstruct_Styles::EncodeColor(Quantity_Color(v[0], v[1], v[2], Quantity_TOC_sRGB));
      for (TopExp_Explorer x(shapes[i], TopAbs_SOLID); x.More(); x.Next()) {
        Handle(StepRepr_RepresentationItem) item = Handle(StepRepr_RepresentationItem)::DownCast(STEPConstruct::FindEntity(finder, x.Current()));
        if (item.IsNull()) continue;
        styles.AddStyle(item, styles.MakeColorPSA(item, c, c, c, 0), nullptr);
        if (context.IsNull()) context = styles.FindContext(shapes[i]);
      }
    }
    Handle(StepVisual_MechanicalDesignGeometricPresentationRepresentation) all;
    if (!context.IsNull() && styles.CreateMDGPR(context, all)) writer.Model()->AddWithRefs(all);
  }
};

// Gives shapes away in a list.
hs_shape **released(std::vector<std::unique_ptr<hs_shape>> &list) {
  auto out = allocated<hs_shape *>(list.size());
  for (size_t i = 0; i < list.size(); i++) out.get()[i] = list[i].release();
  return out.release();
}

} // namespace

extern "C" {

void hs_free_shape(hs_shape *s) { delete s; }
void hs_free(void *p) { std::free(p); }

int hs_prism(const double *frame, const hs_segment *segs, const double *extra, const int *sizes, int loops, const double *along, hs_result *out, char *err) {
  return guarded(err, [&] {
    std::vector<TopoDS_Edge> edges;
    TopoDS_Face face = make_face(frame, segs, extra, sizes, loops, edges);
    BRepPrimAPI_MakePrism b(face, gp_Vec(along[0], along[1], along[2]));
    sweep_result(b, face, edges, out);
    return 0;
  });
}

int hs_revolve(const double *frame, const hs_segment *segs, const double *extra, const int *sizes, int loops, const double *origin, const double *axis, double angle, hs_result *out, char *err) {
  return guarded(err, [&] {
    std::vector<TopoDS_Edge> edges;
    TopoDS_Face face = make_face(frame, segs, extra, sizes, loops, edges);
    gp_Ax1 ax(pnt(origin), dir(axis));
    if (std::fabs(angle) >= 2 * M_PI - 1e-9) {
      BRepPrimAPI_MakeRevol b(face, ax);
      sweep_result(b, face, edges, out);
    } else {
      BRepPrimAPI_MakeRevol b(face, ax, angle);
      sweep_result(b, face, edges, out);
    }
    return 0;
  });
}

int hs_boolean(int op, hs_shape *a, hs_shape **tools, int count, hs_result *out, char *err) {
  return guarded(err, [&] {
    TopTools_ListOfShape args, tl;
    args.Append(a->shape);
    for (int i = 0; i < count; i++) tl.Append(tools[i]->shape);
    BRepAlgoAPI_Fuse fuse;
    BRepAlgoAPI_Cut cut;
    BRepAlgoAPI_Common common;
    BRepAlgoAPI_BooleanOperation *b = op == 0 ? (BRepAlgoAPI_BooleanOperation *)&fuse : op == 1 ? (BRepAlgoAPI_BooleanOperation *)&cut : &common;
    b->SetArguments(args);
    b->SetTools(tl);
    b->SetRunParallel(Standard_False);
    b->SetNonDestructive(Standard_True);
    b->Build();
    if (!b->IsDone() || b->HasErrors()) {
      std::ostringstream s;
      b->DumpErrors(s);
      return fail(err, s.str().c_str());
    }
    int solids;
    auto r = std::make_unique<hs_shape>(solids_only(b->Shape(), &solids));
    Sources src(r.get());
    collect(*b, a, 0, src);
    for (int i = 0; i < count; i++) collect(*b, tools[i], i + 1, src);
    deliver(out, std::move(r), src);
    return 0;
  });
}

// Two solids are intersected once, and two results are built of that.
extern "C++" template <class First, class Second>
int of_one_intersection(hs_shape *a, hs_shape *b, double fuzzy, bool turned, hs_shape **first, hs_shape **second, char *err) {
  return guarded(err, [&] {
    TopTools_ListOfShape both;
    both.Append(a->shape), both.Append(b->shape);
    BOPAlgo_PaveFiller meet;
    meet.SetArguments(both);
    meet.SetFuzzyValue(fuzzy);
    meet.SetRunParallel(Standard_False);
    meet.SetNonDestructive(Standard_True);
    meet.Perform();
    if (meet.HasErrors()) return fail(err, "the two solids cannot be intersected");
    First x(a->shape, b->shape, meet);
    Second y(turned ? b->shape : a->shape, turned ? a->shape : b->shape, meet);
    if (!x.IsDone() || !y.IsDone() || x.HasErrors() || y.HasErrors()) return fail(err, "the two solids cannot be taken from one another");
    int solids;
    auto one = std::make_unique<hs_shape>(solids_only(x.Shape(), &solids));
    auto other = std::make_unique<hs_shape>(solids_only(y.Shape(), &solids));
    *first = one.release();
    *second = other.release();
    return 0;
  });
}

int hs_differ(hs_shape *a, hs_shape *b, double fuzzy, hs_shape **more, hs_shape **less, char *err) {
  return of_one_intersection<BRepAlgoAPI_Cut, BRepAlgoAPI_Cut>(a, b, fuzzy, true, more, less, err);
}

int hs_overlap(hs_shape *a, hs_shape *b, double fuzzy, hs_shape **shared, hs_shape **whole, char *err) {
  return of_one_intersection<BRepAlgoAPI_Common, BRepAlgoAPI_Fuse>(a, b, fuzzy, false, shared, whole, err);
}

int hs_fillet(hs_shape *s, const int *edges, const double *radii, int count, hs_result *out, char *err) {
  return guarded(err, [&] {
    BRepFilletAPI_MakeFillet b(s->shape);
    for (int i = 0; i < count; i++) {
      const TopoDS_Edge &e = TopoDS::Edge(s->edges(edges[i] + 1));
      if (b.Contour(e) == 0) b.Add(radii[i], e);
    }
    b.Build();
    if (!b.IsDone()) return fail(err, "the round does not fit");
    int solids;
    auto r = std::make_unique<hs_shape>(solids_only(b.Shape(), &solids));
    Sources src(r.get());
    collect(b, s, 0, src);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_chamfer(hs_shape *s, const int *edges, const int *faces, const double *first, const double *second, int count, hs_result *out, char *err) {
  return guarded(err, [&] {
    BRepFilletAPI_MakeChamfer b(s->shape);
    for (int i = 0; i < count; i++) {
      const TopoDS_Edge &e = TopoDS::Edge(s->edges(edges[i] + 1));
      if (b.Contour(e) != 0) continue;
      if (faces[i] < 0) b.Add(first[i], e);
      else b.Add(first[i], second[i], e, TopoDS::Face(s->faces(faces[i] + 1)));
    }
    b.Build();
    if (!b.IsDone()) return fail(err, "the chamfer does not fit");
    int solids;
    auto r = std::make_unique<hs_shape>(solids_only(b.Shape(), &solids));
    Sources src(r.get());
    collect(b, s, 0, src);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_sweep(const double *frame, const hs_segment *segs, const double *extra, const int *sizes, int loops, const double *path_frame, const hs_segment *path, const double *path_extra, int pieces, int closed, const double *helix, int keep, hs_result *out, char *err) {
  return guarded(err, [&] {
    std::vector<TopoDS_Edge> edges, along;
    TopoDS_Face face = make_face(frame, segs, extra, sizes, loops, edges);
    TopoDS_Wire spine = helix ? make_helix(path_frame, helix[0], helix[1], helix[2], helix[3] != 0) : make_wire(path_frame, path, path_extra, pieces, closed != 0, along);
    if (helix) along.push_back(TopoDS::Edge(TopExp_Explorer(spine, TopAbs_EDGE).Current()));
    BRepOffsetAPI_MakePipe b(spine, face, keep ? GeomFill_IsFixed : helix ? GeomFill_IsFrenet : GeomFill_IsCorrectedFrenet);
    b.Build();
    if (!b.IsDone()) return fail(err, "the profile cannot be moved along the path");
    int solids;
    TopoDS_Shape whole = b.Shape();
    auto r = std::make_unique<hs_shape>(solids_only(whole, &solids));
    Sources src(r.get());
    // The operand is the piece of the path, the index the edge of the profile.
    for (size_t p = 0; p < along.size(); p++)
      for (size_t i = 0; i < edges.size(); i++) src.add(b.Generated(along[p], edges[i]), (int)p, FROM_EDGE, (int)i);
    src.add(b.FirstShape(), 0, CAP_START, 0);
    src.add(b.LastShape(), 0, CAP_END, 0);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_loft(const double *frames, const hs_segment *segs, const double *extra, const int *sizes, int sections, int ruled, hs_result *out, char *err) {
  return guarded(err, [&] {
    BRepOffsetAPI_ThruSections b(Standard_True, ruled != 0, 1e-6);
    std::vector<TopoDS_Edge> edges;
    int at = 0;
    for (int i = 0; i < sections; at += sizes[i], i++) b.AddWire(make_wire(frames + 12 * i, segs + at, extra, sizes[i], true, edges));
    b.CheckCompatibility(Standard_True);
    b.Build();
    if (!b.IsDone()) return fail(err, "no solid runs through the sections");
    auto r = std::make_unique<hs_shape>(b.Shape());
    Sources src(r.get());
    src.add(b.FirstShape(), 0, CAP_START, 0);
    src.add(b.LastShape(), 0, CAP_END, 0);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_shell(hs_shape *s, const int *open, int count, double thickness, hs_result *out, char *err) {
  return guarded(err, [&] {
    TopTools_ListOfShape faces;
    for (int i = 0; i < count; i++) faces.Append(s->faces(open[i] + 1));
    BRepOffsetAPI_MakeThickSolid b;
    b.MakeThickSolidByJoin(s->shape, faces, thickness, 1e-4, BRepOffset_Skin, Standard_False, Standard_False, GeomAbs_Intersection);
    b.Build();
    if (!b.IsDone()) return fail(err, "the walls run into one another");
    int solids;
    auto r = std::make_unique<hs_shape>(solids_only(b.Shape(), &solids));
    Sources src(r.get());
    collect(b, s, 0, src);
    collect_offset(b, s, src);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_offset(hs_shape *s, double distance, hs_result *out, char *err) {
  return guarded(err, [&] {
    BRepOffsetAPI_MakeOffsetShape b;
    b.PerformByJoin(s->shape, distance, 1e-4, BRepOffset_Skin, Standard_False, Standard_False, GeomAbs_Intersection);
    if (!b.IsDone()) return fail(err, "the walls run into one another");
    int solids;
    auto r = std::make_unique<hs_shape>(solids_only(b.Shape(), &solids));
    Sources src(r.get());
    collect_offset(b, s, src);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_draft(hs_shape *s, const int *faces, int count, const double *frame, double angle, hs_result *out, char *err) {
  return guarded(err, [&] {
    BRepOffsetAPI_DraftAngle b(s->shape);
    gp_Pln neutral(gp_Ax3(pnt(frame), dir(frame + 9), dir(frame + 3)));
    for (int i = 0; i < count; i++) {
      b.Add(TopoDS::Face(s->faces(faces[i] + 1)), dir(frame + 9), angle, neutral);
      if (!b.AddDone()) return fail(err, "a face cannot be tilted about that plane");
    }
    b.Build();
    if (!b.IsDone()) return fail(err, "the tilted faces do not meet any more");
    auto r = std::make_unique<hs_shape>(b.Shape());
    Sources src(r.get());
    for (int i = 1; i <= s->faces.Extent(); i++) src.add(b.ModifiedShape(s->faces(i)), 0, FROM_FACE, i - 1);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_compound(hs_shape **list, int count, hs_result *out, char *err) {
  return guarded(err, [&] {
    TopoDS_Compound c;
    BRep_Builder b;
    b.MakeCompound(c);
    for (int i = 0; i < count; i++)
      for (TopExp_Explorer x(list[i]->shape, TopAbs_SOLID); x.More(); x.Next()) b.Add(c, x.Current());
    auto r = std::make_unique<hs_shape>(c);
    Sources src(r.get());
    for (int i = 0; i < count; i++)
      for (int k = 1; k <= list[i]->faces.Extent(); k++) src.add(list[i]->faces(k), i, FROM_FACE, k - 1);
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_section(hs_shape *s, const double *frame, hs_edge **out, double **runs, int *count, char *err) {
  return guarded(err, [&] {
    BRepAlgoAPI_Section cut(s->shape, gp_Pln(gp_Ax3(pnt(frame), dir(frame + 9), dir(frame + 3))), Standard_False);
    cut.Approximation(Standard_True);
    cut.Build();
    if (!cut.IsDone()) return fail(err, "the plane does not cut the solid cleanly");
    std::vector<hs_edge> list;
    std::vector<double> along;
    for (TopExp_Explorer x(cut.Shape(), TopAbs_EDGE); x.More(); x.Next()) {
      const TopoDS_Edge &e = TopoDS::Edge(x.Current());
      hs_edge o;
      std::memset(&o, 0, sizeof o);
      describe_edge(e, &o);
      TopoDS_Shape f;
      if (cut.HasAncestorFaceOn1(e, f)) {
        o.faces[0] = s->faces.FindIndex(f) - 1;
        o.face_count = o.faces[0] >= 0;
      }
      list.push_back(o);
      along.resize(along.size() + 3 * HS_RUN);
      if (o.kind == 2) run_along(e, &along[along.size() - 3 * HS_RUN]);
    }
    *count = (int)list.size();
    auto edges = copied(list);
    auto points = copied(along);
    *out = edges.release();
    *runs = points.release();
    return 0;
  });
}

int hs_run(hs_shape *s, int edge, double *points, char *err) {
  return guarded(err, [&] {
    run_along(TopoDS::Edge(s->edges(edge + 1)), points);
    return 0;
  });
}

int hs_distance(hs_shape *a, int kind_a, int index_a, hs_shape *b, int kind_b, int index_b, double *distance, double *pa, double *pb, char *err) {
  return guarded(err, [&] {
    auto part = [](hs_shape *s, int kind, int index) -> TopoDS_Shape {
      return kind == 0 ? s->faces(index + 1) : kind == 1 ? s->edges(index + 1) : kind == 2 ? s->vertices(index + 1) : s->shape;
    };
    BRepExtrema_DistShapeShape d(part(a, kind_a, index_a), part(b, kind_b, index_b));
    if (!d.IsDone() || d.NbSolution() == 0) return fail(err, "the distance could not be measured");
    *distance = d.Value();
    put(pa, d.PointOnShape1(1).XYZ());
    put(pb, d.PointOnShape2(1).XYZ());
    return 0;
  });
}

int hs_vertices(hs_shape *s, double *points, char *err) {
  return guarded(err, [&] {
    for (int i = 1; i <= s->vertices.Extent(); i++) put(points + 3 * (i - 1), BRep_Tool::Pnt(TopoDS::Vertex(s->vertices(i))).XYZ());
    return 0;
  });
}

int hs_transform(hs_shape *s, const double *m, hs_result *out, char *err) {
  return guarded(err, [&] {
    gp_Trsf t;
    t.SetValues(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11]);
    BRepBuilderAPI_Transform b(s->shape, t, Standard_True);
    auto r = std::make_unique<hs_shape>(b.Shape());
    Sources src(r.get());
    for (int i = 1; i <= s->faces.Extent(); i++) src.add(b.ModifiedShape(s->faces(i)), 0, FROM_FACE, i - 1);
    deliver(out, std::move(r), src);
    return 0;
  });
}

void hs_careful(int on) { careful = on != 0; }

int hs_simplify(hs_shape *s, int *whole, hs_result *out, char *err) {
  return guarded(err, [&] {
    Union u(s->shape);
    *whole = 1;
    try {
      u.in_rounds({});
    } catch (const Standard_Failure &) {
      u = Union(s->shape);
      try {
        u.across_all_but({}); // some rings can be united in one go and not by pairs
      } catch (const Standard_Failure &) {
        u = Union(s->shape);
        *whole = u.surface_by_surface();
      }
    }
    const Handle(BRepTools_History) &h = u.history;
    const TopoDS_Shape &now = u.shape;
    int solids;
    auto r = std::make_unique<hs_shape>(solids_only(now, &solids));
    Sources src(r.get());
    for (int i = 1; i <= s->faces.Extent(); i++) {
      const TopoDS_Shape &f = s->faces(i);
      const TopTools_ListOfShape &m = h->Modified(f);
      if (!m.IsEmpty()) src.add(m, 0, FROM_FACE, i - 1);
      else if (!h->IsRemoved(f)) src.add(f, 0, FROM_FACE, i - 1);
    }
    deliver(out, std::move(r), src);
    return 0;
  });
}

int hs_counts(hs_shape *s, int *faces, int *edges, int *vertices, int *solids, char *err) {
  return guarded(err, [&] {
    *faces = s->faces.Extent();
    *edges = s->edges.Extent();
    *vertices = s->vertices.Extent();
    TopTools_IndexedMapOfShape m;
    TopExp::MapShapes(s->shape, TopAbs_SOLID, m);
    *solids = m.Extent();
    return 0;
  });
}

int hs_faces(hs_shape *s, hs_face *faces, char *err) {
  return guarded(err, [&] {
    for (int i = 1; i <= s->faces.Extent(); i++) describe_face(TopoDS::Face(s->faces(i)), faces + i - 1);
    return 0;
  });
}

int hs_one_face(hs_shape *s, int index, hs_face *face, char *err) {
  return guarded(err, [&] {
    describe_face(TopoDS::Face(s->faces(index + 1)), face);
    return 0;
  });
}

int hs_sample(hs_shape *s, int face, int n, double *points, double *normals, char *err) {
  return guarded(err, [&] {
    const TopoDS_Face &f = TopoDS::Face(s->faces(face + 1));
    double u0, u1, v0, v1;
    BRepTools::UVBounds(f, u0, u1, v0, v1);
    BRepAdaptor_Surface surface(f);
    for (int i = 0; i < n; i++)
      for (int j = 0; j < n; j++) {
        double u = u0 + (u1 - u0) * i / (n - 1), v = v0 + (v1 - v0) * j / (n - 1);
        int k = 3 * (i * n + j);
        put(points + k, surface.Value(u, v).XYZ());
        put(normals + k, normal_at(f, u, v).XYZ());
      }
    return 0;
  });
}

int hs_splines(hs_shape *s, hs_shape **out, char *err) {
  return guarded(err, [&] {
    BRepBuilderAPI_NurbsConvert b(s->shape);
    if (!b.IsDone()) return fail(err, "the surfaces cannot be written as splines");
    int solids;
    *out = std::make_unique<hs_shape>(solids_only(b.Shape(), &solids)).release();
    return 0;
  });
}

int hs_edges(hs_shape *s, hs_edge *edges, char *err) {
  return guarded(err, [&] {
    TopTools_IndexedDataMapOfShapeListOfShape owners;
    TopExp::MapShapesAndAncestors(s->shape, TopAbs_EDGE, TopAbs_FACE, owners);
    for (int i = 1; i <= s->edges.Extent(); i++) {
      const TopoDS_Edge &e = TopoDS::Edge(s->edges(i));
      hs_edge *o = edges + i - 1;
      std::memset(o, 0, sizeof *o);
      o->degenerate = BRep_Tool::Degenerated(e);
      const TopTools_ListOfShape &l = owners.FindFromKey(e);
      TopoDS_Face first;
      for (TopTools_ListIteratorOfListOfShape it(l); it.More(); it.Next()) {
        const TopoDS_Face &f = TopoDS::Face(it.Value());
        if (BRep_Tool::IsClosed(e, f)) o->seam = 1;
        if (o->face_count < 2 && (o->face_count == 0 || !first.IsSame(f))) {
          o->faces[o->face_count++] = s->faces.FindIndex(f) - 1;
          if (first.IsNull()) first = f;
        }
      }
      if (o->degenerate) continue;
      describe_edge(e, o);
      if (o->face_count == 2) {
        // Smooth when the outward normals agree in the middle of the edge.
        gp_Vec n[2];
        double t0, t1;
        for (int k = 0; k < 2; k++) {
          TopoDS_Face f = TopoDS::Face(s->faces(o->faces[k] + 1));
          Handle(Geom2d_Curve) pc = BRep_Tool::CurveOnSurface(e, f, t0, t1);
          if (pc.IsNull()) continue;
          gp_Pnt2d uv = pc->Value((t0 + t1) / 2);
          n[k] = outward(f, uv.X(), uv.Y());
        }
        o->smooth = n[0].Magnitude() > 0.5 && n[1].Magnitude() > 0.5 && n[0].Dot(n[1]) > 0.99999;
      }
    }
    return 0;
  });
}

int hs_mass(hs_shape *s, hs_props *out, char *err) {
  return guarded(err, [&] {
    GProp_GProps v, a;
    integrate(s->shape, v, a);
    out->volume = v.Mass();
    out->area = a.Mass();
    put(out->centroid, v.CentreOfMass().XYZ());
    gp_Mat m = v.MatrixOfInertia();
    for (int i = 0; i < 3; i++)
      for (int j = 0; j < 3; j++) out->inertia[3 * i + j] = m(i + 1, j + 1);
    return 0;
  });
}

int hs_bounds(hs_shape *s, int exact, double *lo, double *hi, char *err) {
  return guarded(err, [&] {
    Bnd_Box b;
    if (exact)
      for (TopExp_Explorer it(s->shape, TopAbs_FACE); it.More(); it.Next()) b.Add(face_box(TopoDS::Face(it.Current())));
    if (exact && b.IsVoid()) BRepBndLib::AddOptimal(s->shape, b, Standard_False, Standard_False);
    if (!exact) BRepBndLib::Add(s->shape, b);
    if (b.IsVoid()) return fail(err, "there is nothing to measure");
    b.Get(lo[0], lo[1], lo[2], hi[0], hi[1], hi[2]);
    return 0;
  });
}

int hs_check(hs_shape *s, char *err) {
  return guarded(err, [&] {
    BRepCheck_Analyzer a(s->shape);
    if (!a.IsValid()) return fail(err, "the boundary of the solid intersects itself or is not closed");
    return 0;
  });
}

int hs_tessellate(hs_shape *s, double deflection, double angle, hs_mesh *out, char *err) {
  return guarded(err, [&] {
    IMeshTools_Parameters how;
    how.MeshAlgo = IMeshTools_MeshAlgoType_Delabella; // many times as fast on faces with many holes
    how.Deflection = deflection;
    how.Angle = angle;
    how.InParallel = Standard_False;
    BRepMesh_IncrementalMesh mesh(s->shape, how);
    std::vector<double> v, lines;
    std::vector<int> t, faces, sizes;
    for (int i = 1; i <= s->faces.Extent(); i++) {
      const TopoDS_Face &f = TopoDS::Face(s->faces(i));
      TopLoc_Location loc;
      Handle(Poly_Triangulation) p = BRep_Tool::Triangulation(f, loc);
      if (p.IsNull()) continue;
      int base = (int)v.size() / 3;
      for (int k = 1; k <= p->NbNodes(); k++) {
        gp_Pnt q = p->Node(k).Transformed(loc.Transformation());
        v.push_back(q.X()), v.push_back(q.Y()), v.push_back(q.Z());
      }
      for (int k = 1; k <= p->NbTriangles(); k++) {
        int a, b, c;
        p->Triangle(k).Get(a, b, c);
        if (f.Orientation() == TopAbs_REVERSED) std::swap(b, c);
        t.push_back(base + a - 1), t.push_back(base + b - 1), t.push_back(base + c - 1);
        faces.push_back(i - 1);
      }
    }
    TopTools_IndexedDataMapOfShapeListOfShape owners;
    TopExp::MapShapesAndAncestors(s->shape, TopAbs_EDGE, TopAbs_FACE, owners);
    for (int i = 1; i <= s->edges.Extent(); i++) {
      const TopoDS_Edge &e = TopoDS::Edge(s->edges(i));
      if (BRep_Tool::Degenerated(e)) continue;
      const TopTools_ListOfShape &l = owners.FindFromKey(e);
      if (!l.IsEmpty() && BRep_Tool::IsClosed(e, TopoDS::Face(l.First()))) continue;
      size_t before = lines.size();
      sample(e, deflection, lines, 3);
      sizes.push_back((int)(lines.size() - before) / 3);
    }
    auto vertices = copied(v), points = copied(lines);
    auto triangles = copied(t), owners_of = copied(faces), runs = copied(sizes);
    out->vertex_count = (int)v.size() / 3;
    out->triangle_count = (int)t.size() / 3;
    out->line_count = (int)sizes.size();
    out->vertices = vertices.release();
    out->triangles = triangles.release();
    out->faces = owners_of.release();
    out->line_points = points.release();
    out->line_sizes = runs.release();
    return 0;
  });
}

// What the curves of a view come from. The library draws a view as one heap of curves, and the curves of one edge
// or face alone to the same last digit: a curve of the heap is of an edge that has the same one. Of several edges
// that lie on one another in the view each has its own.
struct Origins {
  using Numbers = std::map<Run, std::deque<int>>;
  Numbers edges, faces;

  static void note(Numbers &of, const TopoDS_Shape &curves, int hidden, int number) {
    if (curves.IsNull()) return;
    BRepLib::BuildCurves3d(curves);
    for (TopExp_Explorer x(curves, TopAbs_EDGE); x.More(); x.Next())
      of[run_of(BRepAdaptor_Curve(TopoDS::Edge(x.Current())), hidden)].push_back(number);
  }

  Origins(const Handle(HLRBRep_Algo) &algo, HLRBRep_HLRToShape &h, const hs_shape *s) {
    const Handle(HLRBRep_Data) &data = algo->DataStructure();
    HLRTopoBRep_Data &split = algo->ShapeBounds(1).Shape()->DataStructure();
    for (int i = 1; i <= data->EdgeMap().Extent(); i++) {
      const TopoDS_Shape &e = data->EdgeMap()(i);
      int n = s->edges.FindIndex(split.NewSOldS(e)) - 1;
      if (n < 0) continue;
      for (const TopoDS_Shape &c : {h.VCompound(e), h.Rg1LineVCompound(e)}) note(edges, c, 0, n);
      note(edges, h.HCompound(e), 1, n);
    }
    for (int i = 1; i <= data->FaceMap().Extent(); i++) {
      const TopoDS_Shape &f = data->FaceMap()(i);
      int n = s->faces.FindIndex(split.NewSOldS(f)) - 1;
      if (n < 0) continue;
      // A seam that lies on a silhouette is drawn as an edge, and is none.
      for (const TopoDS_Shape &c : {h.OutLineVCompound(f), h.VCompound(f)}) note(faces, c, 0, n);
      for (const TopoDS_Shape &c : {h.OutLineHCompound(f), h.HCompound(f)}) note(faces, c, 1, n);
    }
  }

  static int take(Numbers &of, const Run &run) {
    auto found = of.find(run);
    if (found == of.end() || found->second.empty()) return -1;
    int n = found->second.front();
    if (found->second.size() > 1) found->second.pop_front(); // what has no other lies on the last
    return n;
  }
};

int hs_view(hs_shape *s, const double *f, hs_curve **out, int *count, char *err) {
  return guarded(err, [&] {
    Handle(HLRBRep_Algo) algo = new HLRBRep_Algo();
    algo->Add(s->shape);
    algo->Projector(HLRAlgo_Projector(gp_Ax2(pnt(f), dir(f + 9), dir(f + 3))));
    algo->Update();
    algo->Hide();
    HLRBRep_HLRToShape h(algo);
    Curves list;
    view_curves(h.VCompound(), 0, 0, 0, list);
    view_curves(h.Rg1LineVCompound(), 0, 1, 0, list);
    view_curves(h.OutLineVCompound(), 0, 0, 1, list);
    view_curves(h.HCompound(), 1, 0, 0, list);
    view_curves(h.OutLineHCompound(), 1, 0, 1, list);
    Origins from(algo, h, s);
    for (size_t i = 0; i < list.list.size(); i++) {
      hs_curve &k = list.list[i];
      if (!k.outline) k.edge = Origins::take(from.edges, list.runs[i]);
      if (k.edge < 0) k.face = Origins::take(from.faces, list.runs[i]);
    }
    auto curves = copied(list.list);
    for (auto &p : list.points) p.release(); // each is in its curve
    *count = (int)list.list.size();
    *out = curves.release();
    return 0;
  });
}

int hs_split(hs_shape *s, hs_shape ***out, int *count, char *err) {
  return guarded(err, [&] {
    TopTools_IndexedMapOfShape m;
    TopExp::MapShapes(s->shape, TopAbs_SOLID, m);
    std::vector<std::unique_ptr<hs_shape>> pieces;
    for (int i = 1; i <= m.Extent(); i++) pieces.push_back(std::make_unique<hs_shape>(m(i)));
    *out = released(pieces);
    *count = m.Extent();
    return 0;
  });
}

int hs_sew(hs_shape *s, double tolerance, hs_shape **out, int *solids, int *open_edges, char *err) {
  return guarded(err, [&] {
    BRepBuilderAPI_Sewing sew(tolerance);
    for (int i = 1; i <= s->faces.Extent(); i++) sew.Add(s->faces(i));
    sew.Perform();
    *open_edges = sew.NbFreeEdges();
    TopoDS_Compound c;
    BRep_Builder b;
    b.MakeCompound(c);
    *solids = 0;
    for (TopExp_Explorer x(sew.SewedShape(), TopAbs_SHELL); x.More(); x.Next()) {
      if (!BRep_Tool::IsClosed(x.Current())) continue;
      TopoDS_Solid one = BRepBuilderAPI_MakeSolid(TopoDS::Shell(x.Current()));
      BRepLib::OrientClosedSolid(one);
      b.Add(c, one);
      (*solids)++;
    }
    int count;
    *out = *solids > 0 ? std::make_unique<hs_shape>(solids_only(c, &count)).release() : nullptr;
    return 0;
  });
}

void hs_free_step(hs_step *s) {
  for (int i = 0; i < s->part_count; i++) delete s->parts[i].shape;
  for (void *p : {(void *)s->parts, (void *)s->nodes, (void *)s->colours, (void *)s->names}) std::free(p);
}

int hs_read_step(const char *data, size_t size, hs_step *out, char *err) {
  return guarded(err, [&] {
    struct view : std::streambuf {
      view(const char *d, size_t n) { setg((char *)d, (char *)d, (char *)d + n); }
    } buffer(data, size);
    std::istream in(&buffer);
    STEPControl_Reader reader;
    if (reader.ReadStream("submitted", in) != IFSelect_RetDone) return fail(err, "the file is not readable STEP data: it is cut short or damaged");
    reader.TransferRoots();
    TopoDS_Shape all = reader.OneShape();
    StepFile file(reader.WS());
    file.release(out);
    if (all.IsNull()) return 0;
    for (TopExp_Explorer x(all, TopAbs_SHELL, TopAbs_SOLID); x.More(); x.Next()) out->shells++;
    for (TopExp_Explorer x(all, TopAbs_FACE, TopAbs_SHELL); x.More(); x.Next()) out->shells++;
    for (TopExp_Explorer x(all, TopAbs_EDGE, TopAbs_FACE); x.More(); x.Next()) out->wires++;
    TopoDS_Compound rest;
    BRep_Builder b;
    b.MakeCompound(rest);
    for (TopExp_Explorer x(all, TopAbs_FACE, TopAbs_SOLID); x.More(); x.Next()) b.Add(rest, x.Current());
    std::unique_ptr<hs_shape> loose;
    if (out->shells > 0) loose = std::make_unique<hs_shape>(rest);
    auto whole = std::make_unique<hs_shape>(solids_only(all, &out->solids));
    out->loose = loose.release();
    out->shape = whole.release();
    return 0;
  });
}

int hs_write_step(hs_shape **list, const char **names, int count, const char *title, int schema, char **data, size_t *size, char *err) {
  return guarded(err, [&] {
    STEPControl_Controller::Init();
    Interface_Static::SetIVal("write.step.schema", schema);
    STEPControl_Writer w;
    w.Model(Standard_True);
    for (int i = 0; i < count; i++) {
      Interface_Static::SetCVal("write.step.product.name", names[i]);
      if (w.Transfer(list[i]->shape, STEPControl_AsIs) != IFSelect_RetDone) return fail(err, "the solid cannot be written as STEP");
    }
    // The library counts its products through the whole process; names are as given.
    each_of<StepBasic_Product>(w.Model(), [](const Handle(StepBasic_Product) &p) {
      TCollection_AsciiString name = p->Name()->String();
      int space = name.SearchFromEnd(" ");
      if (space > 1) name.Trunc(space - 1);
      rename(p, name.ToCString());
    });
    return written(w, title, data, size, err);
  });
}

int hs_write_assembly(const hs_product *products, int count, const hs_use *uses, const char *title, int schema, char **data, size_t *size, char *err) {
  return guarded(err, [&] {
    STEPControl_Controller::Init();
    Interface_Static::SetIVal("write.step.schema", schema);
    StepAssembly a(products, count, uses);
    if (!a.transfer()) return fail(err, "the assembly cannot be written as STEP");
    return written(a.writer, title, data, size, err);
  });
}

} // extern "C"
