#ifndef HAMMERSET_INTEGRATE_H
#define HAMMERSET_INTEGRATE_H

#include <GProp_GProps.hxx>
#include <TopoDS_Shape.hxx>

// Volume and area of a shape with their moments about the origin, to about ten digits.
void integrate(const TopoDS_Shape &s, GProp_GProps &volume, GProp_GProps &area);

#endif
