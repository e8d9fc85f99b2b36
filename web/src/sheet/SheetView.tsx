import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, type PointerEvent, useEffect, useId, useMemo, useRef } from "react";
import { Problem } from "../api/client";
import { Loading, Trouble } from "../controls/notices";
import { PageButtons } from "./PageButtons";
import { PlaceButtons } from "./PlaceButtons";
import { usePages } from "./usePages";
import { usePlace } from "./usePlace";

async function fetchSheet(url: string) {
  const r = await fetch(url);
  if (!r.ok) throw new Problem("the sheet cannot be fetched", "try again", r.status);
  return r.text();
}

interface Chosen {
  chosen?: string | null;
  choose?: (characteristic: string | null) => void;
}

interface Props extends Chosen {
  /** Address of the live rendering; changes when the drawing does. */
  url: string;
}

/** The sheet on screen: zooms with the wheel, pans by dragging, and lets dimensions be picked. */
export function SheetView({ url, ...chosen }: Props) {
  const sheet = useQuery({
    queryKey: ["sheet", url],
    queryFn: () => fetchSheet(url),
    staleTime: Infinity,
  });
  if (sheet.isPending) return <Loading what="the sheet" />;
  if (sheet.error) return <Trouble error={sheet.error} retry={() => void sheet.refetch()} />;
  return <SheetPaper svg={sheet.data} {...chosen} />;
}

/** A sheet that is there already, as students have it. */
export function SheetPaper({ svg, chosen, choose }: Chosen & { svg: string }) {
  const paper = useRef<HTMLDivElement>(null);
  const { frame, transform, zoom, pan, all } = usePlace(svg);
  const drag = useRef<{ x: number; y: number; moved: boolean } | null>(null);

  useEffect(() => {
    if (paper.current) paper.current.innerHTML = svg;
  }, [svg]);

  useEffect(() => {
    for (const e of paper.current?.querySelectorAll("[data-characteristic]") ?? [])
      e.classList.toggle(
        "chosen",
        e.getAttribute("data-characteristic") === chosen && !e.classList.contains("s-verdict"),
      );
  }, [chosen, svg]);

  // After the drawing is there.
  const pages = usePages(svg, paper, chosen);

  // What stands on the sheet, for who does not see it: one line for each characteristic.
  const dimensions = useMemo(() => {
    const lines = new Map<string, string[]>();
    const doc = new DOMParser().parseFromString(svg, "image/svg+xml");
    for (const e of doc.querySelectorAll("[data-characteristic]")) {
      const id = e.getAttribute("data-characteristic") ?? "";
      const text = e.querySelector("title")?.textContent ?? "";
      if (text !== "") lines.set(id, [...(lines.get(id) ?? []), text]);
    }
    return [...lines].map(([id, texts]) => ({ id, text: texts.join(", ") }));
  }, [svg]);
  const list = useId();

  const down = (e: PointerEvent) => {
    drag.current = { x: e.clientX, y: e.clientY, moved: false };
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (!d || (e.buttons & 1) === 0) return;
    const dx = e.clientX - d.x;
    const dy = e.clientY - d.y;
    if (!d.moved && Math.hypot(dx, dy) < 4) return;
    drag.current = { x: e.clientX, y: e.clientY, moved: true };
    pan(dx, dy);
  };
  const up = (e: PointerEvent) => {
    if (drag.current && !drag.current.moved && choose) {
      const hit = (e.target as Element).closest("[data-characteristic]");
      choose(hit?.getAttribute("data-characteristic") ?? null);
    }
    drag.current = null;
  };
  const key = (e: KeyboardEvent) => {
    const step = 40;
    const moves: Record<string, () => void> = {
      "+": () => zoom(1.25),
      "=": () => zoom(1.25),
      "-": () => zoom(0.8),
      "0": all,
      ArrowLeft: () => pan(step, 0),
      ArrowRight: () => pan(-step, 0),
      ArrowUp: () => pan(0, step),
      ArrowDown: () => pan(0, -step),
    };
    const act = moves[e.key];
    if (!act) return;
    e.preventDefault();
    act();
  };

  return (
    <div className="relative h-full min-h-0">
      <div
        ref={frame}
        tabIndex={0}
        role="application"
        aria-label="Sheet; arrow keys pan, plus and minus zoom, 0 shows it whole"
        aria-describedby={list}
        className="sheet-ground h-full cursor-grab overflow-hidden active:cursor-grabbing"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onKeyDown={key}
      >
        <div ref={paper} className="h-full w-full origin-top-left" style={{ transform }} />
      </div>
      <ul id={list} className="sr-only" aria-label="Dimensions of the sheet">
        {dimensions.map((d) => (
          <li key={d.id}>
            {choose ? (
              <button
                type="button"
                tabIndex={-1}
                aria-pressed={chosen === d.id}
                onClick={() => choose(d.id)}
              >
                {d.text}
              </button>
            ) : (
              d.text
            )}
          </li>
        ))}
      </ul>
      <PlaceButtons zoom={zoom} all={all} />
      <PageButtons
        {...pages}
        show={(n) => {
          pages.show(n);
          all();
        }}
      />
    </div>
  );
}
