#include "integrate.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <ElSLib.hxx>
#include <GProp.hxx>
#include <Geom2dAdaptor_Curve.hxx>
#include <Geom_BSplineCurve.hxx>
#include <ShapeUpgrade_ShapeDivideContinuity.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <math.hxx>
#include <math_Vector.hxx>

#include <algorithm>
#include <cmath>
#include <vector>

// The library integrates by Gauss's rule over whole edges and faces. That loses digits across the
// knots of a spline. Where a solid is of planes, cylinders, cones, balls, rings, extruded and turned
// curves alone, and edges are splines of many spans (a hole through a shaft), its faces are integrated here,
// span by span; where surfaces are splines themselves, the shape is cut at the knots first; and where one
// span of a rational spline turns far (of half a cylinder in one span four digits are left), it is
// integrated in as many pieces as a stated accuracy asks for.

namespace {

bool many_spans(const TopoDS_Shape &s) {
  for (TopExp_Explorer x(s, TopAbs_EDGE); x.More(); x.Next()) {
    if (BRep_Tool::Degenerated(TopoDS::Edge(x.Current()))) continue;
    BRepAdaptor_Curve c(TopoDS::Edge(x.Current()));
    if (c.GetType() == GeomAbs_BSplineCurve && c.BSpline()->NbKnots() > 3) return true;
  }
  return false;
}

bool rational(const TopoDS_Shape &s) {
  for (TopExp_Explorer x(s, TopAbs_FACE); x.More(); x.Next()) {
    BRepAdaptor_Surface f(TopoDS::Face(x.Current()), Standard_False);
    bool spline = f.GetType() == GeomAbs_BSplineSurface || f.GetType() == GeomAbs_BezierSurface;
    if (spline && (f.IsURational() || f.IsVRational())) return true;
  }
  return false;
}

// Gauss's rule of n places on [0, 1].
struct Rule {
  std::vector<double> at, weight;
  explicit Rule(int n) {
    math_Vector p(1, n), w(1, n);
    math::GaussPoints(n, p);
    math::GaussWeights(n, w);
    for (int i = 1; i <= n; i++) {
      at.push_back((1 + p(i)) / 2);
      weight.push_back(w(i) / 2);
    }
  }
};

// What is summed over surfaces about one apex: of the cones from it to the surface their volume,
// its first and its second moments; and of the surface itself the same.
struct Sums {
  double volume[10] = {}, area[10] = {};

  // The normal is as long as the piece of surface that weight stands for; outward is 1 where it
  // leads out of the solid, else -1.
  void add(const gp_XYZ &r, const gp_XYZ &normal, double outward, double weight) {
    double v = outward * weight * r.Dot(normal), a = weight * normal.Modulus();
    const double x[3] = {r.X(), r.Y(), r.Z()};
    volume[0] += v / 3;
    area[0] += a;
    for (int i = 0, k = 4; i < 3; i++) {
      volume[1 + i] += v / 4 * x[i];
      area[1 + i] += a * x[i];
      for (int j = i; j < 3; j++, k++) {
        volume[k] += v / 5 * x[i] * x[j];
        area[k] += a * x[i] * x[j];
      }
    }
  }
};

// Properties of the library from such sums, about the origin.
class Properties : public GProp_GProps {
 public:
  Properties(const double *s, const gp_XYZ &apex) {
    gp_Mat about(s[7] + s[9], -s[5], -s[6], -s[5], s[4] + s[9], -s[8], -s[6], -s[8], s[4] + s[7]);
    gp_XYZ centre(s[1] / s[0], s[2] / s[0], s[3] / s[0]);
    dim = s[0];
    loc = gp::Origin();
    g = gp_Pnt(apex + centre);
    gp_Mat there, here;
    GProp::HOperator(gp_Pnt(centre), gp::Origin(), dim, there);
    GProp::HOperator(g, gp::Origin(), dim, here);
    inertia = about - there + here;
  }
};

// A face of a plane, cylinder, cone, ball, ring, extruded or turned curve, summed by Green's theorem: along its edges in the
// plane of its parameters, what is summed from a fixed u to the edge.
class Elementary {
 public:
  Elementary(const TopoDS_Face &f) : face(TopoDS::Face(f.Oriented(TopAbs_FORWARD))), surface(f, Standard_False), outward(f.Orientation() == TopAbs_REVERSED ? -1 : 1) {
    double lo, hi, v0, v1;
    BRepTools::UVBounds(face, lo, hi, v0, v1);
    middle = (lo + hi) / 2;
    if (surface.GetType() != GeomAbs_SurfaceOfExtrusion) return;
    TColStd_Array1OfReal at(1, surface.NbUIntervals(GeomAbs_CN) + 1);
    surface.UIntervals(at, GeomAbs_CN);
    for (double u : at) knots.push_back(u);
  }

  static bool is(const TopoDS_Face &f) {
    BRepAdaptor_Surface s(f, Standard_False);
    if (s.GetType() == GeomAbs_SurfaceOfRevolution && s.NbVIntervals(GeomAbs_CN) > 1) return false;
    bool simple = s.GetType() == GeomAbs_Plane || s.GetType() == GeomAbs_Cylinder || s.GetType() == GeomAbs_Cone ||
                  s.GetType() == GeomAbs_Sphere || s.GetType() == GeomAbs_Torus ||
                  s.GetType() == GeomAbs_SurfaceOfExtrusion || s.GetType() == GeomAbs_SurfaceOfRevolution;
    return simple && TopExp_Explorer(f, TopAbs_EDGE).More() &&
           (f.Orientation() == TopAbs_FORWARD || f.Orientation() == TopAbs_REVERSED);
  }

  void sum(const gp_XYZ &apex, Sums &sums) const {
    static const Rule few(4), usual(6);
    for (TopExp_Explorer x(face, TopAbs_EDGE); x.More(); x.Next()) {
      const TopoDS_Edge &edge = TopoDS::Edge(x.Current());
      if (edge.Orientation() != TopAbs_FORWARD && edge.Orientation() != TopAbs_REVERSED) continue;
      double from, to, way = edge.Orientation() == TopAbs_REVERSED ? -1 : 1;
      Handle(Geom2d_Curve) curve = BRep_Tool::CurveOnSurface(edge, face, from, to);
      if (curve.IsNull()) throw Standard_Failure("an edge has no curve on its face");
      const auto pieces = spans(Geom2dAdaptor_Curve(curve, from, to));
      const Rule &rule = pieces.size() > 24 ? few : usual;
      for (const auto &span : pieces) {
        for (size_t i = 0; i < rule.at.size(); i++) {
          gp_Pnt2d uv;
          gp_Vec2d along;
          curve->D1(span.first + rule.at[i] * span.second, uv, along);
          double weight = way * rule.weight[i] * span.second * along.Y();
          if (weight != 0) row(uv.X(), uv.Y(), weight, apex, sums);
        }
      }
    }
  }

 private:
  // Where a curve is smooth, with the length of each piece; in at least eight pieces, since a conic
  // or a line over a round surface turns as far as it likes.
  static std::vector<std::pair<double, double>> spans(const Geom2dAdaptor_Curve &c) {
    TColStd_Array1OfReal knots(1, c.NbIntervals(GeomAbs_CN) + 1);
    c.Intervals(knots, GeomAbs_CN);
    int pieces = (8 + knots.Length() - 2) / (knots.Length() - 1);
    std::vector<std::pair<double, double>> out;
    for (int k = 1; k < knots.Length(); k++)
      for (int i = 0; i < pieces; i++) {
        double length = (knots(k + 1) - knots(k)) / pieces;
        out.emplace_back(knots(k) + i * length, length);
      }
    return out;
  }

  // The sum from the middle of the face to (u, v), along u; over the knots of an extruded curve piece
  // by piece.
  void row(double u, double v, double weight, const gp_XYZ &apex, Sums &sums) const {
    double lo = std::min(middle, u), hi = std::max(middle, u), way = u < middle ? -weight : weight;
    for (double k : knots)
      if (k > lo && k < hi) {
        piece(lo, k, v, way, apex, sums);
        lo = k;
      }
    piece(lo, hi, v, way, apex, sums);
  }

  void piece(double from, double to, double v, double weight, const gp_XYZ &apex, Sums &sums) const {
    static const Rule straight(3), round(8);
    bool flat = surface.GetType() == GeomAbs_Plane;
    const Rule &rule = flat ? straight : round;
    int pieces = flat ? 1 : std::max(1, int(std::ceil((to - from) / (M_PI / 2))));
    if (knots.size() > 2) pieces = 1; // they are short
    double length = (to - from) / pieces;
    for (int p = 0; p < pieces; p++)
      for (size_t i = 0; i < rule.at.size(); i++) {
        gp_Pnt at;
        gp_Vec du, dv;
        derive(from + (p + rule.at[i]) * length, v, at, du, dv);
        sums.add(at.XYZ() - apex, du.Crossed(dv).XYZ(), outward, weight * length * rule.weight[i]);
      }
  }

  void derive(double u, double v, gp_Pnt &at, gp_Vec &du, gp_Vec &dv) const {
    switch (surface.GetType()) {
      case GeomAbs_Plane: return ElSLib::D1(u, v, surface.Plane(), at, du, dv);
      case GeomAbs_Cylinder: return ElSLib::D1(u, v, surface.Cylinder(), at, du, dv);
      case GeomAbs_Cone: return ElSLib::D1(u, v, surface.Cone(), at, du, dv);
      case GeomAbs_Sphere: return ElSLib::D1(u, v, surface.Sphere(), at, du, dv);
      case GeomAbs_Torus: return ElSLib::D1(u, v, surface.Torus(), at, du, dv);
      default: return surface.D1(u, v, at, du, dv);
    }
  }

  TopoDS_Face face;
  BRepAdaptor_Surface surface;
  double outward, middle;
  std::vector<double> knots;
};

bool elementary(const TopoDS_Shape &s) {
  for (TopExp_Explorer x(s, TopAbs_SHELL); x.More(); x.Next())
    if (!BRep_Tool::IsClosed(x.Current())) return false;
  if (TopExp_Explorer(s, TopAbs_FACE, TopAbs_SHELL).More()) return false;
  for (TopExp_Explorer x(s, TopAbs_FACE); x.More(); x.Next())
    if (!Elementary::is(TopoDS::Face(x.Current()))) return false;
  return true;
}

void sum(const TopoDS_Shape &s, GProp_GProps &volume, GProp_GProps &area) {
  Bnd_Box box;
  BRepBndLib::Add(s, box);
  gp_XYZ apex = (box.CornerMin().XYZ() + box.CornerMax().XYZ()) / 2;
  Sums sums;
  for (TopExp_Explorer x(s, TopAbs_FACE); x.More(); x.Next()) Elementary(TopoDS::Face(x.Current())).sum(apex, sums);
  volume = Properties(sums.volume, apex);
  area = Properties(sums.area, apex);
}

// Cut at the knots of its splines. Cutting can lose pieces of faces: where the two differ, it
// counts only while it agrees with a fine triangulation.
void cut_first(const TopoDS_Shape &s, GProp_GProps &v, GProp_GProps &a) {
  ShapeUpgrade_ShapeDivideContinuity cut(s);
  cut.SetBoundaryCriterion(GeomAbs_CN);
  cut.SetPCurveCriterion(GeomAbs_CN);
  cut.SetSurfaceCriterion(GeomAbs_CN);
  cut.SetTolerance(1e-12);
  cut.SetTolerance2d(1e-12);
  if (!cut.Perform()) return;
  GProp_GProps cv, ca;
  BRepGProp::VolumeProperties(cut.Result(), cv, Standard_True);
  BRepGProp::SurfaceProperties(cut.Result(), ca);
  if (std::abs(cv.Mass() - v.Mass()) > 1e-6 * std::abs(v.Mass()) || std::abs(ca.Mass() - a.Mass()) > 1e-6 * a.Mass()) {
    BRepBuilderAPI_Copy copy(s, Standard_False, Standard_False);
    Bnd_Box box;
    BRepBndLib::Add(s, box);
    double size = std::sqrt(box.SquareExtent());
    BRepMesh_IncrementalMesh mesh(copy.Shape(), 2e-4 * size, Standard_False, 0.1, Standard_False);
    GProp_GProps tv, ta;
    BRepGProp::VolumeProperties(copy.Shape(), tv, Standard_True, Standard_False, Standard_True);
    BRepGProp::SurfaceProperties(copy.Shape(), ta, Standard_False, Standard_True);
    if (std::abs(tv.Mass() - cv.Mass()) > 2e-3 * std::abs(tv.Mass()) || std::abs(ta.Mass() - ca.Mass()) > 2e-3 * ta.Mass()) return;
  }
  v = cv;
  a = ca;
}

}  // namespace

void integrate(const TopoDS_Shape &s, GProp_GProps &v, GProp_GProps &a) {
  bool many = many_spans(s);
  if (many && elementary(s)) return sum(s, v, a);
  if (!many && rational(s)) {
    const double accuracy = 1e-11;
    BRepGProp::VolumeProperties(s, v, accuracy, Standard_True);
    BRepGProp::SurfaceProperties(s, a, accuracy);
    return;
  }
  BRepGProp::VolumeProperties(s, v, Standard_True);
  BRepGProp::SurfaceProperties(s, a);
  if (many) cut_first(s, v, a);
}
