import { useEffect, useState } from "react";
import { Engine } from "./core/engine";
import type { Reach } from "./core/types";
import type { Sketching } from "./useSketch";

/** The interval within which the sketch holds, found in a thread of its own. */
export function useReach(sk: Sketching, name: string | null) {
  const [reach, setReach] = useState<Reach | null>(null);
  const [error, setError] = useState<unknown>(null);
  const { engine, edits, document } = sk;
  useEffect(() => {
    setReach(null);
    setError(null);
    if (!name || !engine) return;
    let second: Engine | null = null;
    const t = window.setTimeout(() => {
      void document().then(async (d) => {
        second = new Engine();
        try {
          await second.call("open", { document: d, pixel: 0.25 });
          setReach(await second.call<Reach>("reach", { name }));
        } catch (e) {
          setError(e);
        }
      });
    }, 250);
    return () => {
      window.clearTimeout(t);
      second?.stop();
    };
  }, [engine, name, edits, document]);
  return { reach, error };
}

export const tidy = (v: number) => String(Number(v.toPrecision(4)));

/** An interval in words. */
export function inWords(r: Reach, unit: string) {
  const low = r.low.open ? `${tidy(r.low.value)} or less` : tidy(r.low.value);
  const high = r.high.open ? `${tidy(r.high.value)} and more` : tidy(r.high.value);
  const holds = `Holds from ${low} to ${high}${unit && ` ${unit}`}.`;
  const below = r.low.open ? "" : ` Below: ${r.low.why}.`;
  const above = r.high.open ? "" : ` Above: ${r.high.why}.`;
  return holds + below + above;
}
