import type { Schemas } from "../api/client";

export type Part = Schemas["ModelledPart"];
export type Form = Schemas["StepForm"];
export type FormField = Form["fields"][number];

/** A step as it stands in a model document. */
export interface Step {
  id: string;
  kind: string;
  name?: string;
  note?: string;
  off?: boolean;
  [field: string]: unknown;
}

export interface Parameter {
  name: string;
  value: string;
  note?: string;
  least?: string;
  most?: string;
}

export interface SolidNote {
  of: string;
  name?: string;
  material?: string;
  density?: string;
}

export interface Doc {
  hammerset: string;
  name: string;
  unit: string;
  parameters: Parameter[];
  steps: Step[];
  solids?: SolidNote[];
  [field: string]: unknown;
}

/** The value at a path such as extent.length or place.from.0.edge. */
export function valueAt(step: Step, path: string): unknown {
  let v: unknown = step;
  for (const key of path.split("."))
    v = v === undefined || v === null ? undefined : (v as Record<string, unknown>)[key];
  return v;
}

const empty = (v: unknown) =>
  v === undefined || v === "" || v === false || (Array.isArray(v) && v.length === 0);

const holdsNothing = (v: unknown) =>
  v === undefined || (typeof v === "object" && v !== null && Object.keys(v).length === 0);

/** A copy of the step with another value at a path; empty values are left out. */
export function withValue(step: Step, path: string, value: unknown): Step {
  const keys = path.split(".");
  const put = (v: unknown, i: number): unknown => {
    const key = keys[i];
    if (key === undefined) return empty(value) ? undefined : value;
    const list = /^\d+$/.test(key);
    const next = put((v as Record<string, unknown> | undefined)?.[key], i + 1);
    if (list) {
      const out = Array.isArray(v) ? [...(v as unknown[])] : [];
      out[Number(key)] = next ?? {};
      while (out.length > 0 && holdsNothing(out.at(-1))) out.pop();
      return out.length === 0 ? undefined : Array.from(out, (x) => x ?? {});
    }
    const out = { ...(v as Record<string, unknown> | undefined) };
    if (next === undefined) delete out[key];
    else out[key] = next;
    return i > 0 && Object.keys(out).length === 0 ? undefined : out;
  };
  return put(step, 0) as Step;
}

/** Whether a field counts, by what the step holds: "path", "path=" or "path=a|b". */
export function counts(field: FormField, step: Step): boolean {
  if (!field.when) return true;
  const [path = "", values] = field.when.split("=");
  const v = valueAt(step, path);
  if (values === undefined) return !empty(v);
  if (values === "") return empty(v);
  return values.split("|").includes(String(v ?? ""));
}

/** Something in the view or the document that a field can take. */
export interface Candidate {
  key: string;
  label: string;
  value: unknown;
}

/** Kinds of fields that are filled by picking; many tells whether several go in. */
export const picked: Record<string, { many: boolean; most?: number }> = {
  sketches: { many: true },
  regions: { many: true },
  spots: { many: true },
  lines: { many: true },
  spot: { many: false },
  face: { many: false },
  faces: { many: true },
  edge: { many: false },
  edges: { many: true },
  plane: { many: false },
  planes: { many: true, most: 2 },
  axis: { many: false },
  points: { many: true, most: 3 },
  steps: { many: true },
  solid: { many: true, most: 1 },
  solids: { many: true },
};

const datums = ["XY", "XZ", "YZ"];

/** What a field can take, in the state of the part before the step. */
export function candidates(kind: string, part: Part | undefined, step: Step): Candidate[] {
  const out: Candidate[] = [];
  const add = (key: string, label: string, value: unknown) => out.push({ key, label, value });
  const sketch = part?.sketches.find((s) => s.step === step.sketch);
  const titled = (id: string) => part?.steps.find((s) => s.id === id)?.title ?? id;
  switch (kind) {
    case "sketches":
      for (const s of part?.sketches ?? []) add(`sketch:${s.step}`, titled(s.step), s.step);
      break;
    case "regions":
      sketch?.regions.forEach((r, i) => add(`region:${sketch.step}.${i}`, r.words, r.bounds));
      break;
    case "spots":
    case "spot":
      for (const p of sketch?.points ?? []) add(`spot:${sketch?.step}.${p.id}`, p.words, p.id);
      break;
    case "lines":
      for (const c of sketch?.curves ?? [])
        if (c.kind === "line" || c.kind === "arc")
          add(`curve:${sketch?.step}.${c.id}`, c.words, c.id);
      break;
    case "face":
    case "faces":
      part?.faces.forEach((f, i) => f.name && add(`face:${i}`, f.words, f.name));
      break;
    case "edge":
    case "edges":
      part?.edges.forEach((e, i) => e.ref && add(`edge:${i}`, e.words, e.ref));
      if (kind === "edges")
        part?.faces.forEach(
          (f, i) => f.name && add(`face:${i}`, `all around the ${f.words}`, { around: f.name }),
        );
      break;
    case "plane":
    case "planes":
      for (const d of datums) add(`datum:${d}`, `${d} plane`, { datum: d });
      for (const p of part?.planes ?? []) add(`plane:${p.step}`, titled(p.step), { step: p.step });
      part?.faces.forEach(
        (f, i) => f.kind === "plane" && f.name && add(`face:${i}`, f.words, { face: f.name }),
      );
      break;
    case "axis":
      for (const d of ["X", "Y", "Z"]) add(`axis:${d}`, `${d} axis`, { datum: d });
      for (const s of part?.steps ?? [])
        if (s.gives === "axis") add(`axis:${s.id}`, titled(s.id), { step: s.id });
      for (const s of part?.sketches ?? []) {
        const own = s.step === step.sketch;
        add(`curve:${s.step}.x-axis`, `x axis of ${titled(s.step)}`, {
          line: own ? "x-axis" : `${s.step}.x-axis`,
        });
        add(`curve:${s.step}.y-axis`, `y axis of ${titled(s.step)}`, {
          line: own ? "y-axis" : `${s.step}.y-axis`,
        });
        for (const c of s.curves)
          if (c.kind === "line")
            add(`curve:${s.step}.${c.id}`, `${c.words} of ${titled(s.step)}`, {
              line: own ? c.id : `${s.step}.${c.id}`,
            });
      }
      part?.faces.forEach(
        (f, i) =>
          ["cylinder", "cone", "torus"].includes(f.kind) &&
          f.name &&
          add(`face:${i}`, `axis of the ${f.words}`, { face: f.name }),
      );
      part?.edges.forEach(
        (e, i) => e.ref && e.kind !== "other" && add(`edge:${i}`, e.words, { edge: e.ref }),
      );
      break;
    case "points":
      part?.corners.forEach((c, i) => c.ref && add(`corner:${i}`, `corner ${i + 1}`, c.ref));
      part?.edges.forEach(
        (e, i) =>
          e.ref &&
          e.kind === "circle" &&
          add(`edge:${i}`, `centre of the ${e.words}`, { center: e.ref }),
      );
      for (const s of part?.sketches ?? [])
        for (const p of s.points)
          add(`spot:${s.step}.${p.id}`, `${p.words} of ${titled(s.step)}`, {
            sketch: `${s.step}.${p.id}`,
          });
      for (const s of part?.steps ?? [])
        if (s.gives === "point") add(`point:${s.id}`, titled(s.id), { step: s.id });
      break;
    case "steps":
      for (const s of part?.steps ?? [])
        if (s.repeats)
          add(
            `step:${s.id}`,
            s.name ? `${s.name} (${s.kind.replaceAll("-", " ")})` : s.title,
            s.id,
          );
      break;
    case "solid":
    case "solids":
      for (const s of part?.solids ?? []) add(`solid:${s.of}`, s.name, s.of);
      break;
  }
  return out;
}

/** What a step is called: by its name, or as the core calls it by its kind. */
export function titleOf(step: Step, part: Part | undefined): string {
  return (
    step.name || part?.steps.find((s) => s.id === step.id)?.title || step.kind.replaceAll("-", " ")
  );
}

/** What a field holds, as a list. */
export function valuesOf(kind: string, value: unknown): unknown[] {
  if (value === undefined || value === null || value === "all") return [];
  return picked[kind]?.many ? (value as unknown[]) : [value];
}

const sorted = (v: unknown): string =>
  JSON.stringify(v, (_, x: unknown) =>
    x && typeof x === "object" && !Array.isArray(x)
      ? Object.fromEntries(Object.entries(x).sort(([a], [b]) => (a < b ? -1 : 1)))
      : x,
  );

/** Whether two values of a field say the same; an offset or a radius of its own does not count. */
export function same(a: unknown, b: unknown): boolean {
  const bare = (v: unknown) => {
    if (!v || typeof v !== "object" || Array.isArray(v)) return v;
    return Object.fromEntries(
      Object.entries(v).filter(([k]) => !["offset", "radius", "first"].includes(k)),
    );
  };
  return sorted(bare(a)) === sorted(bare(b));
}

/** The names that a value refers to geometry by, for whoever wants to know. */
export function namesIn(value: unknown): string {
  if (typeof value === "string") return value;
  if (Array.isArray(value)) return value.map(namesIn).join(", ");
  if (!value || typeof value !== "object") return "";
  const names = Object.entries(value)
    .filter(([key]) => key !== "near")
    .map(([, v]) => namesIn(v));
  return names.filter(Boolean).join(", ");
}

/**
 * What is written on the chip of a value: what it was picked as, or what the places in it are (a
 * place along an edge has the edge in it). Of what no candidate is left, it says so.
 */
export function chip(value: unknown, list: Candidate[]): string {
  const labelled = (v: unknown) => list.find((x) => same(x.value, v))?.label;
  const within =
    value && typeof value === "object"
      ? Object.entries(value).flatMap(([k, v]) => labelled({ [k]: v }) ?? labelled(v) ?? [])
      : [];
  return labelled(value) ?? (within.join(", ") || "not there any more");
}

/**
 * What was chosen in one state of a part, found again by name in another; what is gone there is no
 * longer chosen.
 */
export function foundAgain(chosen: ReadonlySet<string>, old: Part, now: Part): ReadonlySet<string> {
  const out = new Set<string>();
  const index = <T>(list: T[], name: (t: T) => string, wanted: string) =>
    wanted ? list.findIndex((t) => name(t) === wanted) : -1;
  const ref = (r: { ref?: unknown }) => (r.ref ? sorted(r.ref) : "");
  for (const key of chosen) {
    const [kind = "", rest = ""] = key.split(":");
    const i = Number(rest);
    let k = -1;
    if (kind === "face") k = index(now.faces, (f) => f.name, old.faces[i]?.name ?? "");
    else if (kind === "edge") k = index(now.edges, ref, ref(old.edges[i] ?? {}));
    else if (kind === "corner") k = index(now.corners, ref, ref(old.corners[i] ?? {}));
    else out.add(key);
    if (k >= 0) out.add(`${kind}:${k}`);
  }
  return out;
}
