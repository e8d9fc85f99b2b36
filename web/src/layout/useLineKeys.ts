import { type RefObject, useCallback, useRef } from "react";

/** Where a line stands on the screen, and the view around it. */
export interface LineAt {
  view: string;
  /** A place on the line. */
  x: number;
  y: number;
  box: DOMRect;
  around: { left: number; right: number; top: number; bottom: number };
}

/** Going through the lines of the views by keys: the one that is come to is shown. */
export function useLineKeys(paper: RefObject<HTMLDivElement | null>, heat: (e: Element) => void) {
  const at = useRef(-1);
  const lines = useCallback(
    () => [
      ...(paper.current?.querySelectorAll<SVGGeometryElement>(
        ".s-visible[data-view]:not([data-mark])",
      ) ?? []),
    ],
    [paper],
  );
  const step = useCallback(
    (by: number) => {
      const all = lines();
      if (all.length === 0) return;
      at.current = (at.current + by + all.length) % all.length;
      const e = all[at.current];
      if (e) heat(e);
    },
    [lines, heat],
  );
  const here = useCallback((): LineAt | null => {
    const all = lines();
    const e = all[at.current];
    const m = e?.getScreenCTM();
    const view = e?.getAttribute("data-view");
    if (!e || !m || !view) return null;
    // Not the middle: centre lines and other edges meet there.
    const p = e.getPointAtLength(0.37 * e.getTotalLength());
    const { x, y } = new DOMPoint(p.x, p.y).matrixTransform(m);
    const boxes = all
      .filter((o) => o.getAttribute("data-view") === view)
      .map((o) => o.getBoundingClientRect());
    const around = {
      left: Math.min(...boxes.map((b) => b.left)),
      right: Math.max(...boxes.map((b) => b.right)),
      top: Math.min(...boxes.map((b) => b.top)),
      bottom: Math.max(...boxes.map((b) => b.bottom)),
    };
    return { view, x, y, box: e.getBoundingClientRect(), around };
  }, [lines]);
  return { step, here };
}
