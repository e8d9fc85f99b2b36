import { type Dispatch, type SetStateAction, useCallback, useRef } from "react";
import type { Draft } from "./draft";
import { type Part, valueAt, withValue } from "./types";

const millimetres: Record<string, number> = { mm: 1, cm: 10, m: 1000, in: 25.4 };

/** Pulling the handle of a step writes its main size, where that is a plain number. */
export function useHandle(p: {
  draft: Draft | null;
  setDraft: Dispatch<SetStateAction<Draft | null>>;
  part: Part | undefined;
  unit: string;
  picking: boolean;
}) {
  const pulled = useRef<{ path: string; start: number } | null>(null);
  const { draft, setDraft } = p;
  const handle = draft ? p.part?.handle : undefined;
  const path = handle?.path ?? "";
  const value = draft ? String(valueAt(draft.step, path) ?? "") : "";
  const plain = /^\s*-?\d+(\.\d+)?\s*(mm|cm|m|in|deg)?\s*$/.test(value);
  const factor = handle?.angle ? 1 : (millimetres[/[a-z]+/.exec(value)?.[0] ?? p.unit] ?? 1);
  const pull = useCallback(
    (by: number, done: boolean) => {
      if (!pulled.current) pulled.current = { path, start: Number.parseFloat(value) };
      const coarse = factor === 25.4 ? 64 : 2; // sixty-fourths of an inch, half millimetres
      const v = Math.round((pulled.current.start + by / factor) * coarse) / coarse;
      const unit = /[a-z]+/.exec(value)?.[0];
      setDraft((d) =>
        d && (v > 0 || path.includes("offset"))
          ? { ...d, step: withValue(d.step, path, `${v}${unit ? ` ${unit}` : ""}`) }
          : d,
      );
      if (done) pulled.current = null;
    },
    [path, value, factor, setDraft],
  );
  return draft !== null && !p.picking && plain ? pull : undefined;
}
