// What the sketch core gives and takes, as core/sketch/session describes it. Places
// are in millimetres with y downwards.

export interface Spot {
  x: number;
  y: number;
}

/** What is under the pointer that the tool can use; what is empty for geometry. */
export interface Hit {
  id: string;
  what?: "size" | "mark";
  /** What trimming would take away here. */
  piece?: string;
}

export interface CurveView {
  id: string;
  kind: string;
  path: string;
  guide?: boolean;
  traced?: boolean;
  loose?: boolean;
  bad?: boolean;
}

export interface PointView extends Spot {
  id: string;
  loose?: boolean;
  joined?: boolean;
  free?: boolean;
  arrows?: string;
}

export interface SizeView extends Spot {
  id: string;
  kind: string;
  text: string;
  formula: string;
  path: string;
  driven?: boolean;
  quiet?: boolean;
  bad?: boolean;
}

export interface MarkView extends Spot {
  id: string;
  kind: string;
  guessed?: boolean;
  bad?: boolean;
}

export interface RegionView extends Spot {
  path: string;
  area: string;
  material: boolean;
}

export interface ParamView {
  name: string;
  formula: string;
  note?: string;
  text: string;
  value: number;
  driving: boolean;
}

export interface Finding {
  id: string;
  kind: string;
  what: string;
  remedy: string;
  repair?: string;
  entities?: string[];
  constraints?: string[];
  at?: Spot;
  near?: Spot;
}

export interface ConstraintRow {
  id: string;
  kind: string;
  words: string;
  of: string[];
  guessed?: boolean;
  spare?: boolean;
  bad?: boolean;
}

export interface Frame {
  revision: number;
  solved: boolean;
  curves: CurveView[];
  points: PointView[];
  sizes: SizeView[];
  marks: MarkView[];
  regions: RegionView[];
  parameters: ParamView[];
  box: [number, number, number, number];
  margin: [number, number, number, number];
  undo?: string;
  redo?: string;
  trying?: string;
  analysed: boolean;
  freedom: number;
  loose: string[];
  findings: Finding[];
  constraints: ConstraintRow[];
  zigzags: string[];
}

export interface Guess {
  kind: string;
  with?: string[];
  whole?: boolean;
  words: string;
}

export interface Place extends Spot {
  point?: string;
  guesses?: Guess[];
  /** What was typed, as it becomes sizes. */
  across?: string;
  up?: string;
  long?: string;
}

export interface Preview {
  place: Place;
  path: string;
  text: string;
  ask: string;
}

export interface Offer {
  kind: string;
  size: boolean;
  words: string;
  value?: string;
  adds: boolean;
}

export interface Tool {
  id: string;
  name: string;
  places: string[];
  open: boolean;
  chain: boolean;
}

export interface Action {
  do: string;
  name: string;
  needs: string;
  asks?: string;
  places?: boolean;
}

export interface Kind {
  kind: string;
  name: string;
  on: string;
}

export interface Lists {
  tools: Tool[];
  actions: Action[];
  constraints: Kind[];
  sizes: Kind[];
}

export interface Drawn {
  frame: Frame;
  ids: string[];
  next?: Place;
}

export interface Reach {
  nominal: number;
  low: ReachEnd;
  high: ReachEnd;
}

export interface ReachEnd {
  value: number;
  open: boolean;
  why: string;
  entities: string[] | null;
}

export interface SketchDocument {
  unit: string;
  parameters: { name: string; value: string; note?: string }[];
  entities: Record<string, unknown>[];
  constraints: Record<string, unknown>[];
  elsewhere?: string[];
}

export interface Command {
  do: string;
  ids?: string[];
  id?: string;
  kind?: string;
  value?: string;
  name?: string;
  note?: string;
  at?: Spot;
  count?: number;
  on?: boolean;
  edge?: unknown;
}
