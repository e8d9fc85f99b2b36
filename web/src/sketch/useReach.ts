import { useEffect, useMemo, useState } from "react";
import { Engine } from "./core/engine";
import type { Reach } from "./core/types";
import type { Sketching } from "./useSketch";

/** The interval within which the sketch holds, found in a thread of its own. */
export function useReach(sk: Sketching, name: string | null) {
  const { engine, edits, document } = sk;
  // What is found holds for one name in one state of the sketch.
  const wish = useMemo(() => ({ engine, name, edits, document }), [engine, name, edits, document]);
  const [found, setFound] = useState<{ of: typeof wish; reach: Reach | null; error: unknown }>();
  useEffect(() => {
    const { engine, name, document } = wish;
    if (!name || !engine) return;
    let second: Engine | null = null;
    const t = window.setTimeout(() => {
      void document().then(async (d) => {
        second = new Engine();
        try {
          await second.call("open", { document: d, pixel: 0.25 });
          const reach = await second.call<Reach>("reach", { name });
          setFound({ of: wish, reach, error: null });
        } catch (e) {
          setFound({ of: wish, reach: null, error: e });
        }
      });
    }, 250);
    return () => {
      window.clearTimeout(t);
      second?.stop();
    };
  }, [wish]);
  return found?.of === wish ? found : { reach: null, error: null };
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
