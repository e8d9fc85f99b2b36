import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Said } from "./Messages";
import type { PickKind } from "./picking";
import {
  type Part,
  candidates,
  foundAgain,
  picked,
  same,
  valueAt,
  valuesOf,
  withValue,
} from "./types";
import type { Drafting } from "./useDraft";

const plain: ReadonlySet<PickKind> = new Set<PickKind>(["face", "edge", "corner", "curve", "spot"]);
const nothing: ReadonlySet<PickKind> = new Set<PickKind>();
const allows: Record<string, PickKind[]> = {
  sketches: ["curve"],
  regions: ["region"],
  spots: ["spot"],
  spot: ["spot"],
  lines: ["curve"],
  face: ["face"],
  faces: ["face"],
  edge: ["edge"],
  edges: ["edge", "face"],
  plane: ["plane", "face"],
  planes: ["plane", "face"],
  axis: ["edge", "curve", "face"],
  points: ["corner", "spot", "edge"],
  steps: ["face"],
  solid: ["solid"],
  solids: ["solid"],
};

/** The step that a face was made by, for picking steps in the view. */
const makerOf = (name: string) => (name.split("/")[0] ?? "").split(":").at(-1)?.split(".")[0] ?? "";

/**
 * What is chosen in the view: geometry of the part, or, while a field of a step is filled by
 * picking, what that field holds.
 */
export function useChoice(p: {
  drafting: Drafting;
  part: Part | undefined;
  before: Part | undefined;
  say: (said: Said | null) => void;
}) {
  const { part, before, say } = p;
  const { draft, setDraft, field, activate } = p.drafting;
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  // Faces and edges are chosen by their numbers, which another rebuild gives anew.
  const last = useRef<Part | undefined>(undefined);
  useEffect(() => {
    const old = last.current;
    last.current = part;
    if (old && part && old !== part) setChosen((c) => (c.size > 0 ? foundAgain(c, old, part) : c));
  }, [part]);

  const list = useMemo(
    () => (draft && field ? candidates(field.kind, before, draft.step) : []),
    [draft, field, before],
  );
  const shown = useMemo<ReadonlySet<string>>(() => {
    if (!draft || !field) return draft ? new Set() : chosen;
    const values = valuesOf(field.kind, valueAt(draft.step, field.path));
    return new Set(list.filter((c) => values.some((v) => same(v, c.value))).map((c) => c.key));
  }, [draft, field, list, chosen]);
  const allowed = useMemo<ReadonlySet<PickKind>>(
    () => (field ? new Set(allows[field.kind] ?? []) : draft ? nothing : plain),
    [field, draft],
  );

  const pick = useCallback(
    (key: string | null, more: boolean) => {
      if (draft && field && before) {
        if (!key) return;
        let k = key;
        if (field.kind === "sketches") k = `sketch:${key.slice(6).split(".")[0] ?? ""}`;
        if (field.kind === "steps")
          k = `step:${makerOf(before.faces[Number(key.slice(5))]?.name ?? "")}`;
        const c = list.find((x) => x.key === k);
        if (!c) {
          const text = "that cannot go here; pick something that lights up with a name in the list";
          say({ bad: false, text });
          return;
        }
        say(null);
        const many = picked[field.kind]?.many ?? false;
        const values = valuesOf(field.kind, valueAt(draft.step, field.path));
        const has = values.some((v) => same(v, c.value));
        const next = has
          ? values.filter((v) => !same(v, c.value))
          : many
            ? [...values, c.value].slice(-(picked[field.kind]?.most ?? Infinity))
            : [c.value];
        setDraft({ ...draft, step: withValue(draft.step, field.path, many ? next : next[0]) });
        if (!many && !has) activate(null);
        return;
      }
      if (draft) return;
      setChosen((old) => {
        if (!key) return more ? old : new Set();
        const next = new Set(more ? old : []);
        if (old.has(key)) next.delete(key);
        else next.add(key);
        return next;
      });
    },
    [draft, field, list, before, say, setDraft, activate],
  );
  const clear = useCallback(() => setChosen(new Set()), []);
  return { chosen, clear, shown, allowed, pick };
}
