import { useCallback, useEffect, useRef, useState } from "react";

interface Place {
  x: number;
  y: number;
  scale: number;
}
const whole: Place = { x: 0, y: 0, scale: 1 };

/** Which part of a sheet is on screen: the wheel comes nearer, where the pointer is. */
export function usePlace(shown: unknown) {
  const frame = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState(whole);
  const zoom = useCallback((factor: number, at?: { x: number; y: number }) => {
    const box = frame.current?.getBoundingClientRect();
    if (!box) return;
    const cx = at ? at.x - box.left : box.width / 2;
    const cy = at ? at.y - box.top : box.height / 2;
    setPlace((p) => {
      const scale = Math.min(12, Math.max(0.5, p.scale * factor));
      const k = scale / p.scale;
      return { scale, x: cx - (cx - p.x) * k, y: cy - (cy - p.y) * k };
    });
  }, []);
  useEffect(() => {
    const f = frame.current;
    if (!f) return;
    // React's own wheel handler cannot keep the page from scrolling.
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      zoom(Math.exp(-e.deltaY * 0.0015), { x: e.clientX, y: e.clientY });
    };
    f.addEventListener("wheel", wheel, { passive: false });
    return () => f.removeEventListener("wheel", wheel);
  }, [zoom, shown]);
  const pan = useCallback(
    (dx: number, dy: number) => setPlace((p) => ({ ...p, x: p.x + dx, y: p.y + dy })),
    [],
  );
  const all = useCallback(() => setPlace(whole), []);
  return {
    frame,
    transform: `translate(${place.x}px, ${place.y}px) scale(${place.scale})`,
    zoom,
    pan,
    all,
  };
}
