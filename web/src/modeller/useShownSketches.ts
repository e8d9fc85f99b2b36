import { useMemo } from "react";
import type { Doc, Step } from "./types";
import type { Drafting } from "./useDraft";
import type { Forms } from "./useForms";

/** The sketches that some step uses. */
export function usedSketches(doc: Doc): ReadonlySet<string> {
  const of = (s: Step) => [s.sketch, s.path, ...((s.sections as string[] | undefined) ?? [])];
  return new Set(doc.steps.flatMap(of).filter((x): x is string => typeof x === "string"));
}

/** The sketches to be seen: those that nothing uses, the marked one, and what a form asks about. */
export function useShownSketches(
  doc: Doc,
  forms: Forms,
  drafting: Drafting,
  marked: string | null,
): ReadonlySet<string> {
  const { draft, field } = drafting;
  const { isSketch } = forms;
  const shown = useMemo(() => {
    const used = usedSketches(doc);
    const out = new Set<string>();
    for (const s of doc.steps)
      if (isSketch(s) && (!used.has(s.id) || marked === s.id)) out.add(s.id);
    if (draft) {
      for (const k of [draft.step.sketch, draft.step.path]) if (typeof k === "string") out.add(k);
      if (field && ["sketches", "axis", "points"].includes(field.kind))
        for (const s of doc.steps) if (isSketch(s)) out.add(s.id);
    }
    return [...out].join(" ");
  }, [isSketch, doc, marked, draft, field]);
  // The same set as long as it holds the same.
  return useMemo(() => new Set(shown.split(" ").filter(Boolean)), [shown]);
}
