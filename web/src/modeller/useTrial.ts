import { useCallback, useMemo, useState } from "react";
import type { Doc, Part } from "./types";

interface Tried {
  name: string;
  value: number;
}

/** A value of a parameter that is tried with the slider; set is for rebuilding with it. */
export function useTrial(doc: Doc) {
  const [trying, setTrying] = useState<Tried | null>(null);
  const set = useMemo(() => {
    if (!trying || !doc.parameters.some((p) => p.name === trying.name)) return undefined;
    return { [trying.name]: String(Number(trying.value.toPrecision(8))) };
  }, [trying, doc.parameters]);
  const end = useCallback(() => setTrying(null), []);
  return { trying, setTrying, set, end };
}

/** Tries a value; null ends the trial, and what is no number takes the value that is tried. */
export function useAttempt(
  trial: ReturnType<typeof useTrial>,
  doc: Doc,
  part: Part | undefined,
  change: (next: Doc, what: string) => void,
) {
  const { trying, setTrying } = trial;
  return useCallback(
    (name: string, value: number | null) => {
      if (value !== null && !Number.isNaN(value)) {
        setTrying({ name, value });
        return;
      }
      const row = part?.parameters.find((r) => r.name === name);
      if (value !== null && trying && row) {
        const unit = row.dim === "length" ? ` ${doc.unit}` : row.dim === "angle" ? " deg" : "";
        const taken = `${Number(trying.value.toPrecision(6))}${unit}`;
        const parameters = doc.parameters.map((p) =>
          p.name === name ? { ...p, value: taken } : p,
        );
        change({ ...doc, parameters }, `parameter ${name}`);
      }
      setTrying(null);
    },
    [part, trying, setTrying, doc, change],
  );
}
