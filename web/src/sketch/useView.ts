import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useChanged } from "../app/useChanged";
import type { Frame, Spot } from "./core/types";
import type { Sketching } from "./useSketch";

/** What is seen of the plane: a corner in millimetres, and how many of them a pixel is. */
export interface View {
  x: number;
  y: number;
  pixel: number;
}

/** Which part of the sketch is seen: fitted, moved and zoomed. */
export function useView(
  { frame, pixel, setPixel }: Sketching,
  p: {
    /** What lies behind an empty sketch: x, y, width and height. */
    ground: [number, number, number, number] | null;
    /** Something to bring into view. */
    goTo: Spot | null;
    /** Another number asks for all to be shown. */
    fitKey: number;
  },
) {
  const { ground, goTo, fitKey } = p;
  const board = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState({ w: 600, h: 500, measured: false });
  const [view, setView] = useState<View>({ x: -70, y: -60, pixel: 0.25 });
  const spaceDown = useRef(false);
  const fitted = useRef(-1);

  // Measured and fitted before the first picture is painted, so that nothing jumps under the hand.
  useLayoutEffect(() => {
    const b = board.current?.parentElement;
    if (!b) return;
    const measure = () =>
      setSize((was) => {
        const now = {
          w: Math.max(50, b.clientWidth),
          h: Math.max(50, b.clientHeight),
          measured: true,
        };
        return was.measured && was.w === now.w && was.h === now.h ? was : now;
      });
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(b);
    return () => watch.disconnect();
  }, []);

  const fit = useCallback(
    (f: Frame) => {
      const [x, y, w, h] = f.curves.length + f.points.length === 0 && ground ? ground : f.box;
      // Lettering keeps its size in pixels, however large the sketch is shown.
      const room = (n: number, all: number) => Math.min(n, all * 0.22) + 24;
      const [left, above, right, below] = [
        room(f.margin[0], size.w),
        room(f.margin[1], size.h),
        room(f.margin[2], size.w),
        room(f.margin[3], size.h) + 40,
      ];
      const mm = Math.max(
        w / Math.max(60, size.w - left - right),
        h / Math.max(60, size.h - above - below),
        1e-4,
      );
      setView({
        x: x + w / 2 - ((size.w + left - right) / 2) * mm,
        y: y + h / 2 - ((size.h + above - below) / 2) * mm,
        pixel: mm,
      });
      setPixel(mm);
    },
    [size, setPixel, ground],
  );

  // Shown whole when it is opened and whenever that is asked for.
  useLayoutEffect(() => {
    if (frame && size.measured && fitted.current !== fitKey) {
      fitted.current = fitKey;
      fit(frame);
    }
  }, [frame, fit, fitKey, size.measured]);

  if (useChanged(goTo, size) && goTo)
    setView((v) => {
      const inside =
        goTo.x > v.x + 40 * v.pixel &&
        goTo.y > v.y + 40 * v.pixel &&
        goTo.x < v.x + (size.w - 40) * v.pixel &&
        goTo.y < v.y + (size.h - 40) * v.pixel;
      return inside
        ? v
        : { ...v, x: goTo.x - (size.w * v.pixel) / 2, y: goTo.y - (size.h * v.pixel) / 2 };
    });

  // The layout of sizes and symbols follows the zoom when it rests.
  useEffect(() => {
    if (Math.abs(view.pixel - pixel) < 1e-9) return;
    const t = window.setTimeout(() => setPixel(view.pixel), 110);
    return () => window.clearTimeout(t);
  }, [view.pixel, pixel, setPixel]);

  const zoom = useCallback((factor: number, at?: Spot) => {
    setView((v) => {
      const b = board.current?.getBoundingClientRect();
      const mm = Math.min(1000, Math.max(1e-5, v.pixel * factor));
      const cx = at && b ? at.x - b.left : (b?.width ?? 0) / 2;
      const cy = at && b ? at.y - b.top : (b?.height ?? 0) / 2;
      return { x: v.x + cx * (v.pixel - mm), y: v.y + cy * (v.pixel - mm), pixel: mm };
    });
  }, []);

  useEffect(() => {
    const b = board.current;
    if (!b) return;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      zoom(Math.exp(e.deltaY * 0.0015), { x: e.clientX, y: e.clientY });
    };
    b.addEventListener("wheel", wheel, { passive: false });
    const key = (e: KeyboardEvent) => {
      if (e.code === "Space") spaceDown.current = e.type === "keydown";
    };
    const asked = (e: Event) => zoom((e as CustomEvent<number>).detail);
    window.addEventListener("sketch-zoom", asked);
    window.addEventListener("keydown", key);
    window.addEventListener("keyup", key);
    return () => {
      b.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", key);
      window.removeEventListener("keyup", key);
      window.removeEventListener("sketch-zoom", asked);
    };
  }, [zoom]);

  const spot = useCallback(
    (e: { clientX: number; clientY: number }): Spot => {
      const b = board.current?.getBoundingClientRect();
      return {
        x: view.x + (e.clientX - (b?.left ?? 0)) * view.pixel,
        y: view.y + (e.clientY - (b?.top ?? 0)) * view.pixel,
      };
    },
    [view],
  );
  const pan = useCallback(
    (dx: number, dy: number) =>
      setView((v) => ({ ...v, x: v.x - dx * v.pixel, y: v.y - dy * v.pixel })),
    [],
  );
  return { board, size, view, spot, pan, spaceDown };
}

export type Seen = ReturnType<typeof useView>;
