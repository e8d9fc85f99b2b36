// What the sketch core gives and takes, made of the Go types of core/sketch/session (make
// generate). Places are in millimetres with y downwards.
import type { components } from "./session";

type Schemas = components["schemas"];

export type Spot = Schemas["Spot"];
/** What is under the pointer that the tool can use. */
export type Hit = Schemas["Hit"];
export type CurveView = Schemas["CurveView"];
export type PointView = Schemas["PointView"];
export type SizeView = Schemas["SizeView"];
export type MarkView = Schemas["MarkView"];
export type RegionView = Schemas["RegionView"];
export type ParamView = Schemas["ParamView"];
export type Finding = Schemas["Finding"];
export type ConstraintRow = Schemas["ConstraintRow"];
export type Frame = Schemas["Frame"];
export type Guess = Schemas["Guess"];
export type Place = Schemas["Place"];
export type Preview = Schemas["Preview"];
export type Offer = Schemas["Offer"];
export type Tool = Schemas["Tool"];
export type Action = Schemas["Action"];
export type Kind = Schemas["Kind"];
export type Lists = Schemas["Lists"];
export type Drawn = Schemas["Drawn"];
export type Reach = Schemas["Reach"];
export type ReachEnd = Schemas["ReachEnd"];
export type SketchDocument = Schemas["SketchDocument"];
export type Command = Schemas["Command"];
