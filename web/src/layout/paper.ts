/** Where something is on the paper, in millimetres from its lower left corner. */
export type Spot = [number, number];

const around = [
  [0, 0],
  [4, 0],
  [-4, 0],
  [0, 4],
  [0, -4],
] as const;

/** How far from the pointer a line is still meant, in pixels. */
export const nearby = 6;

const hits = (paper: HTMLElement, x: number, y: number) =>
  document.elementsFromPoint(x, y).filter((e) => paper.contains(e));

/** The view around a place of the screen: the smallest, if several are. */
export function viewAt(paper: HTMLElement, x: number, y: number): string | null {
  let best: { id: string; size: number } | null = null;
  const boxes = new Map<string, DOMRect[]>();
  for (const e of paper.querySelectorAll(".s-visible[data-view]")) {
    const id = e.getAttribute("data-view") ?? "";
    boxes.set(id, [...(boxes.get(id) ?? []), e.getBoundingClientRect()]);
  }
  for (const [id, list] of boxes) {
    const left = Math.min(...list.map((b) => b.left)) - nearby;
    const right = Math.max(...list.map((b) => b.right)) + nearby;
    const top = Math.min(...list.map((b) => b.top)) - nearby;
    const bottom = Math.max(...list.map((b) => b.bottom)) + nearby;
    const size = (right - left) * (bottom - top);
    if (x >= left && x <= right && y >= top && y <= bottom && (!best || size < best.size))
      best = { id, size };
  }
  return best && best.id;
}

/** What lies under the pointer: a mark, the outline of a view, or a view around it. */
export function under(paper: HTMLElement, x: number, y: number): string | null {
  for (const [dx, dy] of around)
    for (const kind of ["mark", "view"] as const)
      for (const e of hits(paper, x + dx, y + dy)) {
        const id = e.getAttribute(`data-${kind}`);
        if (id !== null) return `${kind}:${id}`;
      }
  const view = viewAt(paper, x, y);
  return view && `view:${view}`;
}

/** The line of a view under the pointer, that a dimension could be of. */
export function lineUnder(paper: HTMLElement, x: number, y: number): Element | null {
  for (const [dx, dy] of around)
    for (const e of hits(paper, x + dx, y + dy))
      if (
        e.matches(".s-visible[data-view]:not([data-mark]), .s-hidden[data-view]:not([data-mark])")
      )
        return e;
  return null;
}

/** Millimetres of paper for a pixel of the screen. */
export function perPixel(paper: HTMLElement | null): number {
  const svg = paper?.querySelector("svg");
  return svg ? 1 / (svg.getScreenCTM()?.a ?? 1) : 1;
}

/** A place of the screen on the paper, whose height is given. */
export function onPaper(paper: HTMLElement | null, height: number, x: number, y: number): Spot {
  const svg = paper?.querySelector("svg");
  const m = svg?.getScreenCTM()?.inverse();
  if (!m) return [0, 0];
  const p = new DOMPoint(x, y).matrixTransform(m);
  return [p.x, height - p.y];
}
