import { type RefObject, useEffect, useMemo, useState } from "react";
import { useChanged } from "../app/useChanged";

/** A sheet of a set: where it lies in their common drawing, and the characteristics on it. */
interface Page {
  box: string;
  has: Set<string>;
}

/** The sheets of a set that is drawn as one; none of a single one. */
function pagesOf(svg: string): Page[] {
  if (!svg.includes("data-box=")) return [];
  const doc = new DOMParser().parseFromString(svg, "image/svg+xml");
  return [...doc.querySelectorAll("g[data-box]")].map((g) => ({
    box: g.getAttribute("data-box") ?? "",
    has: new Set(
      [...g.querySelectorAll("[data-characteristic]")].map(
        (e) => e.getAttribute("data-characteristic") ?? "",
      ),
    ),
  }));
}

/** So many sheets are still read together; of more the first is shown. */
const together = 2;

/**
 * Which sheet of a set is on screen: one, or all of them under one another. A characteristic that
 * is chosen brings its sheet.
 */
export function usePages(
  svg: string,
  paper: RefObject<HTMLDivElement | null>,
  chosen: string | null | undefined,
) {
  const pages = useMemo(() => pagesOf(svg), [svg]);
  const [page, show] = useState(pages.length > together ? 0 : -1);
  if (useChanged(chosen) && chosen && page >= 0) {
    const on = pages.findIndex((p) => p.has.has(chosen));
    if (on >= 0 && on !== page) show(on);
  }
  useEffect(() => {
    const drawing = paper.current?.querySelector("svg");
    if (!drawing || pages.length === 0) return;
    const whole = drawing.dataset.whole ?? drawing.getAttribute("viewBox") ?? "";
    drawing.dataset.whole = whole;
    drawing.setAttribute("viewBox", pages[page]?.box ?? whole);
  }, [pages, page, paper, svg]);
  return { count: pages.length, page, show };
}
