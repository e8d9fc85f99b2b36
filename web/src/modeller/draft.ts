import { type Doc, type Form, type Part, type Step } from "./types";
import { candidates, counts, picked, valueAt, valuesOf, withValue } from "./types";

/** A step that is being filled in, at its place in the document. */
export interface Draft {
  step: Step;
  index: number;
  isNew: boolean;
}

/** The form of a step that was left, where its model still has the place for it. */
export function fitting(draft: Draft | null | undefined, doc: Doc): Draft | null {
  if (!draft) return null;
  const there = doc.steps[draft.index]?.id === draft.step.id;
  const fits = draft.isNew
    ? draft.index <= doc.steps.length && !doc.steps.some((s) => s.id === draft.step.id)
    : there;
  return fits ? draft : null;
}

/** The document with the step as it is filled in. */
export function including(doc: Doc, draft: Draft | null): Doc {
  if (!draft) return doc;
  const steps = draft.isNew
    ? doc.steps.toSpliced(draft.index, 0, draft.step)
    : doc.steps.with(draft.index, draft.step);
  return { ...doc, steps };
}

/** A changed step without the fields that do not count any more: they would be looked for. */
export function pruned(form: Form | undefined, before: Step, step: Step): Step {
  let next = step;
  for (const x of form?.fields ?? [])
    if (counts(x, before) && !counts(x, step) && valueAt(step, x.path) !== undefined)
      next = withValue(next, x.path, undefined);
  return next;
}

/** Where a new step is begun: what stands before it, and what is chosen. */
export interface Setting {
  unit: string;
  part: Part | undefined;
  chosen: ReadonlySet<string>;
  /** Sketches before it, and those of them that nothing uses yet. */
  sketches: Step[];
  free: Step[];
  /** The sketch that it is wanted on. */
  sketch: string | null | undefined;
}

/** A new step with what can be known of it, and the first field that still asks for a pick. */
export function begun(form: Form, id: string, on: Setting): { step: Step; asks: string | null } {
  let step: Step = { id, kind: form.kind };
  const left = new Set(on.chosen);
  for (const x of form.fields) {
    if (x.default && counts(x, step)) step = withValue(step, x.path, x.default);
    if (x.kind === "sketch" && (!x.optional || on.free.length > 0)) {
      const s = on.sketches.find((q) => q.id === on.sketch) ?? on.free.at(-1) ?? on.sketches.at(-1);
      if (s) step = withValue(step, x.path, s.id);
    }
    if (["length", "angle", "number"].includes(x.kind) && !x.optional && counts(x, step))
      step = withValue(step, x.path, first(x, form, on.unit));
    if (!(x.kind in picked) || !counts(x, step) || !on.part) continue;
    if (["regions", "spots"].includes(x.kind)) continue;
    // What is chosen already goes into the first field that it fits.
    const facesAlone = [...on.chosen].every((k) => k.startsWith("face:"));
    const fits = candidates(x.kind, on.part, step).filter(
      (q) => left.has(q.key) && (x.kind !== "edges" || q.key.startsWith("edge:") || facesAlone),
    );
    if (fits.length === 0) continue;
    const many = picked[x.kind]?.many;
    step = withValue(step, x.path, many ? fits.map((q) => q.value) : fits[0]?.value);
    for (const q of many ? fits : fits.slice(0, 1)) left.delete(q.key);
  }
  const asks = form.fields.find(
    (x) =>
      x.kind in picked &&
      !x.optional &&
      x.kind !== "regions" &&
      counts(x, step) &&
      valuesOf(x.kind, valueAt(step, x.path)).length === 0,
  );
  return { step, asks: asks?.path ?? null };
}

/** The value that a size begins with. */
function first(x: Form["fields"][number], form: Form, unit: string): string {
  if (x.kind === "angle") return "90 deg";
  if (x.kind === "number") return x.first ?? "3";
  const small = form.group === "edges";
  return unit === "in" ? (small ? "0.1" : "0.5") : small ? "2" : "10";
}
