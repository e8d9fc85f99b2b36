import type { SheetFinding } from "../exercise/SheetAudit";

const times = 4;
const duration = 1600; // milliseconds for once to and fro

/**
 * Shows on the sheet what is loose: the lines of its faces go to and fro a few times, in each view
 * the way that the core says, and stay where they are.
 */
export function loosen(paper: HTMLElement, of: SheetFinding) {
  const faces = new Set(of.faces.map((f) => f.replace(/^face:/, "")));
  for (const [view, by] of Object.entries(of.moves ?? {})) {
    const [x = 0, y = 0] = by;
    for (const e of paper.querySelectorAll(`[data-view="${CSS.escape(view)}"][data-faces]`)) {
      const own = e.getAttribute("data-faces")?.split(" ") ?? [];
      if (!own.some((f) => faces.has(f))) continue;
      e.animate(
        [
          { transform: "none", stroke: "var(--color-primary)" },
          { transform: `translate(${x}px, ${-y}px)`, stroke: "var(--color-primary)" },
          { transform: "none", stroke: "var(--color-primary)" },
          { transform: `translate(${-x}px, ${y}px)`, stroke: "var(--color-primary)" },
          { transform: "none", stroke: "var(--color-primary)" },
        ],
        { duration, iterations: times },
      );
    }
  }
}
