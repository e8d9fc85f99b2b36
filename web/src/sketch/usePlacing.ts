import { useCallback, useEffect, useMemo, useState } from "react";
import { useChanged } from "../app/useChanged";
import { Newest } from "./core/engine";
import type { Place, Preview, Spot } from "./core/types";
import type { Turns } from "./modes";
import type { Sketching } from "./useSketch";

/** Drawing by giving places: what would be drawn under the pointer, and putting a place. */
export function usePlacing(
  sk: Sketching,
  { mode, now: modeNow, put, inTurn }: Turns,
  p: { pixel: number; free: boolean; sides: number; keyCursor: Spot | null },
) {
  const { engine, draw, say } = sk;
  const { pixel, free, sides, keyCursor } = p;
  const [preview, setPreview] = useState<Preview | null>(null);
  const previews = useMemo(() => new Newest(), []);

  const ghost = useCallback(
    (at: Spot, hold: boolean) => {
      if (!engine || mode.kind !== "draw") return;
      const { tool, places } = mode;
      previews.run(async () => {
        try {
          setPreview(
            await engine.call<Preview>("preview", {
              tool,
              places,
              at,
              pixel: pixel,
              free: hold || free,
              sides,
            }),
          );
        } catch {
          setPreview(null); // the next move shows another
        }
      });
    },
    [engine, mode, previews, pixel, free, sides],
  );

  if (useChanged(mode) && mode.kind !== "draw") setPreview(null);

  useEffect(() => {
    if (keyCursor) ghost(keyCursor, false);
  }, [keyCursor, ghost]);

  const putOne = useCallback(
    async (at: Spot | Place, hold: boolean, exact: boolean) => {
      const mode = modeNow();
      if (!engine || mode.kind !== "draw") return;
      const tool = sk.lists?.tools.find((t) => t.id === mode.tool);
      if (!tool) return;
      const look = (loose: boolean) =>
        engine.call<Preview>("preview", {
          tool: mode.tool,
          places: mode.places,
          at,
          pixel: pixel,
          free: loose,
          sides,
        });
      let p = await look(hold || free);
      // A typed place is meant as it stands: a guess that would move it is left out.
      if (exact && Math.max(Math.abs(p.place.x - at.x), Math.abs(p.place.y - at.y)) > 1e-9)
        p = await look(true);
      // What was typed goes along: it becomes sizes of what is drawn.
      const typed = exact ? (at as Place) : undefined;
      const place: Place = typed
        ? {
            ...p.place,
            across: typed.across,
            up: typed.up,
            long: typed.long,
            guesses: [
              ...(p.place.guesses ?? []).filter((g) => !typed.across || g.kind === "coincident"),
              ...(typed.guesses ?? []).filter(
                (g) => !(p.place.guesses ?? []).some((q) => q.kind === g.kind),
              ),
            ],
          }
        : p.place;
      const places = [...mode.places, place];
      if (tool.open || places.length < tool.places.length) {
        put({ kind: "draw", tool: mode.tool, places });
        return;
      }
      const d = await draw(mode.tool, places, sides);
      setPreview(null);
      put({ kind: "draw", tool: mode.tool, places: d?.next && tool.chain ? [d.next] : [] });
    },
    [engine, sk.lists, pixel, free, sides, draw, modeNow, put],
  );
  const place = useCallback(
    (at: Spot | Place, hold: boolean, exact = false) =>
      inTurn(() => putOne(at, hold, exact)).catch((x: unknown) =>
        say({ bad: true, text: x instanceof Error ? x.message : "this place could not be put" }),
      ),
    [putOne, inTurn, say],
  );

  // The keyboard's own cursor puts its place when Enter is pressed; see useKeys.
  useEffect(() => {
    const put = (e: Event) => {
      const { exact, ...at } = (e as CustomEvent<(Spot | Place) & { exact?: boolean }>).detail;
      void place(at, false, exact);
    };
    window.addEventListener("sketch-place", put);
    return () => window.removeEventListener("sketch-place", put);
  }, [place]);
  return { preview, ghost, place, forget: useCallback(() => setPreview(null), []) };
}
