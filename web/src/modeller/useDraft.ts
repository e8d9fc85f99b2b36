import { useCallback, useEffect, useMemo, useState } from "react";
import { keep, kept, letGo } from "../app/keep";
import { type Draft, fitting, including, pruned } from "./draft";
import type { Doc, Step } from "./types";
import type { Forms } from "./useForms";

/**
 * The step that is being filled in. It is kept in the browser until it is put into the document or
 * left; what was left can be opened again.
 */
export function useDraft(id: number, doc: Doc, forms: Forms) {
  const [draft, setDraft] = useState<Draft | null>(() => fitting(kept<Draft>(`step/${id}`), doc));
  const [aside, setAside] = useState<Draft | null>(null);
  /** The field that is filled by picking. */
  const [active, activate] = useState<string | null>(null);
  useEffect(() => {
    if (draft) keep(`step/${id}`, draft);
    else letGo(`step/${id}`);
  }, [id, draft]);

  const withDraft = useMemo(() => including(doc, draft), [doc, draft]);
  const place = draft?.index;
  const before = useMemo<Doc | null>(
    () => (place === undefined ? null : { ...doc, steps: doc.steps.slice(0, place) }),
    [doc, place],
  );
  const form = draft ? forms.kinds.get(draft.step.kind) : undefined;
  const field = form?.fields.find((f) => f.path === active);

  const open = useCallback((next: Draft, field: string | null) => {
    setDraft(next);
    activate(field);
  }, []);
  const setStep = useCallback(
    (step: Step) =>
      setDraft((d) => d && { ...d, step: pruned(forms.kinds.get(step.kind), d.step, step) }),
    [forms.kinds],
  );
  const close = useCallback(() => {
    setDraft(null);
    activate(null);
  }, []);
  /** Leaves the form; what was filled in can be opened again. */
  const leave = useCallback(() => {
    setAside(draft && JSON.stringify(withDraft) !== JSON.stringify(doc) ? draft : null);
    close();
  }, [draft, withDraft, doc, close]);
  return {
    draft,
    setDraft,
    open,
    setStep,
    close,
    leave,
    aside: aside && !draft ? fitting(aside, doc) : null,
    setAside,
    active,
    activate,
    withDraft,
    before,
    form,
    field,
  };
}

export type Drafting = ReturnType<typeof useDraft>;
