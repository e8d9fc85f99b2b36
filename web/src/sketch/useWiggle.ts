import { useCallback, useEffect, useRef, useState } from "react";
import type { Sketching } from "./useSketch";

const steps = 28;
const rounds = 2;

/** Animates the motion that something loose still has: every frame is a solved state. */
export function useWiggle(sk: Sketching) {
  const [wiggle, setWiggle] = useState<string[] | null>(null);
  const timer = useRef<number | undefined>(undefined);
  const { engine, frame, pixel, say } = sk;
  const stop = useCallback(() => {
    window.clearInterval(timer.current);
    setWiggle(null);
  }, []);
  const start = useCallback(
    (id: string | undefined) => {
      if (!engine || !frame) return;
      const what =
        id && frame.loose.includes(id)
          ? id
          : ((frame.curves.find((c) => c.id === id)?.loose ? frame.loose[0] : id) ??
            frame.loose[0]);
      if (!what) {
        say({ bad: false, text: "nothing is loose: there is nothing to wiggle" });
        return;
      }
      stop();
      void engine.call<string[][]>("wiggle", { id: what, frames: steps, pixel }).then(
        (frames) => {
          if (frames.length === 0) {
            say({ bad: false, text: `${what} is held` });
            return;
          }
          // Where motion is not wanted, both ends of it are shown, one after the other.
          const still = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
          if (still) {
            const quarter = Math.floor(frames.length / 4);
            setWiggle(frames[quarter] ?? null);
            timer.current = ticking(900, (n) => {
              if (n > 0) stop();
              else setWiggle(frames[3 * quarter] ?? null);
            });
            return;
          }
          timer.current = ticking(40, (n) => {
            setWiggle(frames[n % frames.length] ?? null);
            if (n + 1 > rounds * frames.length) stop();
          });
        },
        () => stop(),
      );
    },
    [engine, frame, pixel, say, stop],
  );
  useEffect(() => stop, [frame?.revision, stop]);
  return { wiggle, start };
}

/** Calls again and again, with how often it has called before; gives what stops it. */
function ticking(ms: number, tick: (n: number) => void): number {
  let n = 0;
  return window.setInterval(() => tick(n++), ms);
}
