import { type KeyboardEvent, type PointerEvent, useEffect, useRef } from "react";
import { PlaceButtons } from "../sheet/PlaceButtons";
import { usePlace } from "../sheet/usePlace";
import type { Command, SheetDraft } from "./useSheetDraft";

interface Props {
  drawn: SheetDraft;
  /** mark:m3 or view:front. */
  chosen: string | null;
  choose: (item: string | null) => void;
  act: (c: Command) => void;
  /** Something that was done is being drawn. */
  busy: boolean;
  undo: () => void;
  redo: () => void;
}

const selector = (item: string) => {
  const [what, id] = item.split(":");
  return `[data-${what}="${CSS.escape(id ?? "")}"]`;
};

/** What lies under the pointer: a mark, the outline of a view, or a view around it. */
function under(paper: HTMLElement, x: number, y: number): string | null {
  for (const [dx, dy] of [
    [0, 0],
    [4, 0],
    [-4, 0],
    [0, 4],
    [0, -4],
  ] as const) {
    const hits = document.elementsFromPoint(x + dx, y + dy).filter((e) => paper.contains(e));
    for (const kind of ["mark", "view"] as const)
      for (const e of hits) {
        const id = e.getAttribute(`data-${kind}`);
        if (id !== null) return `${kind}:${id}`;
      }
  }
  let best: { id: string; size: number } | null = null;
  const boxes = new Map<string, DOMRect[]>();
  for (const e of paper.querySelectorAll(".s-visible[data-view]")) {
    const id = e.getAttribute("data-view") ?? "";
    boxes.set(id, [...(boxes.get(id) ?? []), e.getBoundingClientRect()]);
  }
  for (const [id, list] of boxes) {
    const left = Math.min(...list.map((b) => b.left));
    const right = Math.max(...list.map((b) => b.right));
    const top = Math.min(...list.map((b) => b.top));
    const bottom = Math.max(...list.map((b) => b.bottom));
    const size = (right - left) * (bottom - top);
    if (x >= left && x <= right && y >= top && y <= bottom && (!best || size < best.size))
      best = { id, size };
  }
  return best && `view:${best.id}`;
}

interface Drag {
  item: string | null;
  x: number;
  y: number;
  moved: boolean;
}

/** The sheet in the hand: views and marks are dragged, or nudged with the keys. */
export function SheetHand({ drawn, chosen, choose, act, busy, undo, redo }: Props) {
  const paper = useRef<HTMLDivElement>(null);
  const drag = useRef<Drag | null>(null);
  const { frame, transform, zoom, pan, all } = usePlace(drawn.svg);

  useEffect(() => {
    if (paper.current) paper.current.innerHTML = drawn.svg;
  }, [drawn.svg]);
  // What was dragged stands where the core has put it, or where it was.
  useEffect(() => {
    if (busy) return;
    for (const e of paper.current?.querySelectorAll("[data-view][transform]") ?? [])
      e.removeAttribute("transform");
  }, [busy]);
  useEffect(() => {
    for (const e of paper.current?.querySelectorAll("[data-mark],[data-view]") ?? [])
      e.classList.toggle("chosen", chosen !== null && e.matches(selector(chosen)));
  }, [chosen, drawn.svg]);

  /** Millimetres of paper for a pixel of the screen. */
  const perPixel = () => {
    const svg = paper.current?.querySelector("svg");
    return svg ? 1 / (svg.getScreenCTM()?.a ?? 1) : 1;
  };
  const shift = (item: string, dx: number, dy: number) => {
    for (const e of paper.current?.querySelectorAll(selector(item)) ?? [])
      e.setAttribute("transform", `translate(${dx} ${dy})`);
  };
  const down = (e: PointerEvent) => {
    if (e.button !== 0 || !paper.current) return;
    const item = under(paper.current, e.clientX, e.clientY);
    drag.current = { item, x: e.clientX, y: e.clientY, moved: false };
    e.currentTarget.setPointerCapture(e.pointerId);
    choose(item);
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (!d || (e.buttons & 1) === 0) return;
    const [dx, dy] = [e.clientX - d.x, e.clientY - d.y];
    if (!d.moved && Math.hypot(dx, dy) < 4) return;
    d.moved = true;
    if (d.item) {
      const k = perPixel();
      shift(d.item, dx * k, dy * k);
      return;
    }
    pan(dx, dy);
    drag.current = { ...d, x: e.clientX, y: e.clientY };
  };
  const up = (e: PointerEvent) => {
    const d = drag.current;
    drag.current = null;
    if (!d?.item || !d.moved) return;
    const k = perPixel();
    act({ do: "move", item: d.item, by: [(e.clientX - d.x) * k, (d.y - e.clientY) * k] });
  };
  const cancel = () => {
    if (drag.current?.item) shift(drag.current.item, 0, 0);
    drag.current = null;
  };
  const key = (e: KeyboardEvent) => {
    const far = e.shiftKey ? 5 : 1;
    const nudge = (dx: number, dy: number) => {
      if (chosen) act({ do: "move", item: chosen, by: [dx * far, dy * far] });
      else pan(-40 * dx, 40 * dy);
    };
    const command = e.ctrlKey || e.metaKey;
    const acts: Record<string, () => void> = {
      ArrowLeft: () => nudge(-1, 0),
      ArrowRight: () => nudge(1, 0),
      ArrowUp: () => nudge(0, 1),
      ArrowDown: () => nudge(0, -1),
      "+": () => zoom(1.25),
      "-": () => zoom(0.8),
      "0": all,
      Escape: () => (drag.current ? cancel() : choose(null)),
      Delete: () => {
        if (!chosen?.startsWith("mark:")) return;
        act({ do: "remove", item: chosen });
        choose(null);
      },
    };
    const turns: Record<string, () => void> = { z: () => (e.shiftKey ? redo() : undo()), y: redo };
    const run = command ? turns[e.key.toLowerCase()] : acts[e.key];
    if (!run) return;
    e.preventDefault();
    run();
  };
  return (
    <div className="relative h-full min-h-0">
      <div
        ref={frame}
        tabIndex={0}
        role="application"
        aria-label={
          "Sheet to be laid out; arrow keys move what is chosen, with Shift farther, " +
          "Delete takes a mark away, plus and minus zoom, 0 shows it whole"
        }
        className="sheet-ground h-full touch-none overflow-hidden"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={cancel}
        onKeyDown={key}
      >
        <div ref={paper} className="h-full w-full origin-top-left" style={{ transform }} />
      </div>
      <PlaceButtons zoom={zoom} all={all} />
    </div>
  );
}
