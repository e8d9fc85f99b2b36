/** Things of a sheet that are lifted off it while they are dragged. */
export interface Lifted {
  /** Moves them, in pixels of the screen from where they were. */
  move: (dx: number, dy: number) => void;
  drop: () => void;
}

/**
 * Lifts what fits the selectors off the sheet, onto a layer of its own: while it is dragged the
 * layer is moved as it is, and nothing of the sheet has to be painted again.
 */
export function lift(paper: HTMLElement, selectors: string[]): Lifted | null {
  const svg = paper.querySelector("svg");
  if (!svg) return null;
  const layer = svg.cloneNode(false) as SVGSVGElement;
  layer.setAttribute("aria-hidden", "true");
  layer.style.cssText = "position:absolute;inset:0;pointer-events:none;will-change:transform";
  const hidden = selectors.flatMap((s) => [...svg.querySelectorAll<SVGElement>(s)]);
  for (const e of hidden) {
    layer.append(e.cloneNode(true));
    e.style.visibility = "hidden";
  }
  paper.append(layer);
  // The paper is drawn larger or smaller as a whole: its own pixels are others than the screen's.
  const zoom = paper.getBoundingClientRect().width / Math.max(1, paper.offsetWidth);
  return {
    move: (dx, dy) => {
      layer.style.transform = `translate(${dx / zoom}px, ${dy / zoom}px)`;
    },
    drop: () => {
      layer.remove();
      for (const e of hidden) e.style.visibility = "";
    },
  };
}
