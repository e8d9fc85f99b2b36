import {
  type KeyboardEvent,
  type PointerEvent,
  useCallback,
  useEffect,
  useRef,
  useState,
} from "react";
import { cx } from "../app/cx";
import type { SheetFinding } from "../exercise/SheetAudit";
import { PlaceButtons } from "../sheet/PlaceButtons";
import { usePlace } from "../sheet/usePlace";
import { Ghost, type Stroke } from "./Ghost";
import { lineUnder, nearby, onPaper, perPixel, under, viewAt } from "./paper";
import { type Tool, clicksLine, drawsCircle, drawsLine } from "./tools";
import type { Dimensioning } from "./useDimensioning";
import { type Lifted, lift } from "./lift";
import { loosen } from "./loosen";
import { useLineKeys } from "./useLineKeys";
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
  tool: Tool;
  setTool: (t: Tool) => void;
  dim: Dimensioning;
  /** What is shown to be loose. */
  loose: SheetFinding | null;
}

const selector = (item: string) => {
  const [what, id] = item.split(":");
  return `[data-${what}="${CSS.escape(id ?? "")}"]`;
};

interface Drag {
  item: string | null;
  x: number;
  y: number;
  moved: boolean;
  /** How far it has been moved, in pixels of the screen. */
  by: [number, number];
}

/**
 * The sheet in the hand: views and marks are dragged, or nudged with the keys; with a tool, edges
 * are picked and cutting lines and circles drawn.
 */
export function SheetHand(props: Props) {
  const { drawn, chosen, choose, act, busy, undo, redo, tool, setTool, dim, loose } = props;
  const paper = useRef<HTMLDivElement>(null);
  /** What is being drawn, and where the pointer is. */
  const [stroke, setStroke] = useState<Stroke | null>(null);
  const hot = useRef<Element | null>(null);
  const drag = useRef<Drag | null>(null);
  const lifted = useRef<Lifted | null>(null);
  const { frame, transform, zoom, pan, all } = usePlace(drawn.svg);
  const heat = useCallback((e: Element | null) => {
    hot.current?.classList.remove("hot");
    e?.classList.add("hot");
    hot.current = e;
  }, []);
  const lines = useLineKeys(paper, heat);

  useEffect(() => {
    if (!paper.current) return;
    paper.current.innerHTML = drawn.svg;
    // What is being dragged meanwhile stays in the hand.
    const d = drag.current;
    lifted.current = null;
    if (!d?.moved || !d.item) return;
    lifted.current = lift(paper.current, d.item.split(" ").map(selector));
    lifted.current?.move(...d.by);
  }, [drawn.svg]);
  useEffect(() => {
    if (loose && paper.current) loosen(paper.current, loose);
  }, [loose]);
  // What was dragged stands where the core has put it, or where it was.
  useEffect(() => {
    if (busy || drag.current?.moved) return;
    lifted.current?.drop();
    lifted.current = null;
  }, [busy]);
  useEffect(() => {
    for (const e of paper.current?.querySelectorAll("[data-mark],[data-view]") ?? [])
      e.classList.toggle(
        "chosen",
        (chosen?.split(" ") ?? []).some((x) => e.matches(selector(x))),
      );
  }, [chosen, drawn.svg]);

  const spot = (x: number, y: number) => onPaper(paper.current, drawn.height, x, y);
  /** A click with the dimension tool: on a line it picks, beside the part it puts down. */
  const clickDimension = (x: number, y: number) => {
    if (!paper.current) return;
    const view = lineUnder(paper.current, x, y)?.getAttribute("data-view");
    if (view && dim.count !== 2) dim.pick(view, spot(x, y), nearby * perPixel(paper.current));
    else dim.putDown(spot(x, y));
  };
  /** A line or a circle that was drawn. */
  const drawnStroke = (s: Omit<Stroke, "down">, of?: string) => {
    if (!paper.current || Math.hypot(s.x - s.x0, s.y - s.y0) < 4) return;
    const [x, y] = drawsCircle(tool) ? [s.x0, s.y0] : [(s.x0 + s.x) / 2, (s.y0 + s.y) / 2];
    const view = of ?? viewAt(paper.current, x, y);
    if (!view || !(drawsCircle(tool) || drawsLine(tool))) return;
    act({
      do: tool as Command["do"],
      item: `view:${view}`,
      picks: [spot(s.x0, s.y0), spot(s.x, s.y)],
    });
    setTool("hand");
  };
  /** A click on a line with the tool that has the chosen section go through its feature as well. */
  const clickStep = (x: number, y: number) => {
    if (!chosen || !paper.current || !lineUnder(paper.current, x, y)) return;
    const reach = nearby * perPixel(paper.current);
    act({ do: "step", item: chosen, picks: [spot(x, y)], reach });
    setTool("hand");
    choose(chosen);
  };
  /** A click on the hatching of a rib, in the chosen section. */
  const clickRib = (x: number, y: number) => {
    if (!chosen) return;
    act({ do: "whole", item: chosen, picks: [spot(x, y)] });
    setTool("hand");
    choose(chosen);
  };
  /** A click on a line, with the tool that adds the view square to its face or a symbol to it. */
  const clickLine = (x: number, y: number) => {
    const view = paper.current && lineUnder(paper.current, x, y)?.getAttribute("data-view");
    if (!view || (tool !== "square" && tool !== "symbol")) return;
    const reach = nearby * perPixel(paper.current);
    const text = tool === "symbol" ? { text: "Ra 3.2" } : {};
    act({ do: tool, item: `view:${view}`, picks: [spot(x, y)], reach, ...text });
    setTool("hand");
  };
  /** What Enter does with a tool, on the line that was come to by keys. */
  const enter = (upright: boolean) => {
    if (tool === "dimension" && dim.offer && !stroke) return dim.putDown();
    if (tool === "dimension" && dim.offer && stroke) return dim.putDown(spot(stroke.x, stroke.y));
    const l = lines.here();
    if (!l) return;
    if (tool === "dimension") dim.pick(l.view, spot(l.x, l.y), nearby * perPixel(paper.current));
    const [x, y] = [l.box.left + l.box.width / 2, l.box.top + l.box.height / 2];
    const { left, right, top, bottom } = l.around;
    if (tool === "section")
      drawnStroke(
        upright ? { x0: x, y0: bottom, x, y: top } : { x0: left, y0: y, x: right, y },
        l.view,
      );
    clickLine(l.x, l.y);
    if (tool === "step") clickStep(l.x, l.y);
    if (drawsCircle(tool))
      drawnStroke({ x0: x, y0: y, x: x + 0.8 * Math.max(l.box.width, l.box.height), y }, l.view);
  };
  /** Picks the line that was come to, also as a second one. */
  const pickHere = () => {
    const l = lines.here();
    if (l) dim.pick(l.view, spot(l.x, l.y), nearby * perPixel(paper.current));
  };
  const down = (e: PointerEvent) => {
    if (e.button !== 0 || !paper.current) return;
    if (tool !== "hand") {
      frame.current?.focus({ preventScroll: true });
      e.currentTarget.setPointerCapture(e.pointerId);
      const [x0, y0] = [e.clientX, e.clientY];
      setStroke({ x0, y0, x: x0, y: y0, down: true });
      return;
    }
    const item = under(paper.current, e.clientX, e.clientY);
    const before = chosen?.split(" ") ?? [];
    e.currentTarget.setPointerCapture(e.pointerId);
    if (e.shiftKey && item) {
      // With Shift one more is chosen, or one less.
      const now = before.includes(item) ? before.filter((x) => x !== item) : [...before, item];
      choose(now.join(" ") || null);
      return;
    }
    // Who takes hold of one of several that are chosen moves all of them.
    const held = item && before.includes(item) ? chosen : item;
    drag.current = { item: held, x: e.clientX, y: e.clientY, moved: false, by: [0, 0] };
    choose(held);
  };
  const moveTool = (e: PointerEvent) => {
    const [x, y] = [e.clientX, e.clientY];
    setStroke((s) => (s?.down ? { ...s, x, y } : { x0: x, y0: y, x, y, down: false }));
    if (clicksLine(tool) && paper.current) heat(lineUnder(paper.current, x, y));
  };
  const move = (e: PointerEvent) => {
    if (tool !== "hand") {
      moveTool(e);
      return;
    }
    const d = drag.current;
    if (!d || (e.buttons & 1) === 0) return;
    const [dx, dy] = [e.clientX - d.x, e.clientY - d.y];
    if (!d.moved && Math.hypot(dx, dy) < 4) return;
    if (!d.moved && d.item && paper.current) {
      lifted.current?.drop();
      lifted.current = lift(paper.current, d.item.split(" ").map(selector));
    }
    d.moved = true;
    if (d.item) {
      d.by = [dx, dy];
      lifted.current?.move(dx, dy);
      return;
    }
    pan(dx, dy);
    drag.current = { ...d, x: e.clientX, y: e.clientY };
  };
  const up = (e: PointerEvent) => {
    if (tool !== "hand") {
      if (stroke?.down) {
        setStroke({ ...stroke, down: false });
        if (tool === "dimension") clickDimension(e.clientX, e.clientY);
        else if (tool === "square" || tool === "symbol") clickLine(e.clientX, e.clientY);
        else if (tool === "step") clickStep(e.clientX, e.clientY);
        else if (tool === "whole") clickRib(e.clientX, e.clientY);
        else drawnStroke({ ...stroke, x: e.clientX, y: e.clientY });
      }
      return;
    }
    const d = drag.current;
    drag.current = null;
    if (!d?.item || !d.moved) return;
    const k = perPixel(paper.current);
    const by: [number, number] = [(e.clientX - d.x) * k, (d.y - e.clientY) * k];
    act({ do: "move", item: d.item, by, on: e.altKey });
  };
  const cancel = () => {
    lifted.current?.drop();
    lifted.current = drag.current = null;
  };
  const key = (e: KeyboardEvent) => {
    const far = e.shiftKey ? 5 : 1;
    const nudge = (dx: number, dy: number) => {
      if (chosen) act({ do: "move", item: chosen, by: [dx * far, dy * far], on: true });
      else pan(-40 * dx, 40 * dy);
    };
    const command = e.ctrlKey || e.metaKey;
    const acts: Record<string, () => unknown> = {
      ArrowLeft: () => nudge(-1, 0),
      ArrowRight: () => nudge(1, 0),
      ArrowUp: () => nudge(0, 1),
      ArrowDown: () => nudge(0, -1),
      "+": () => zoom(1.25),
      "-": () => zoom(0.8),
      "0": all,
      Escape: () => {
        if (drag.current) cancel();
        else if (dim.picked) dim.drop();
        else if (tool !== "hand") setTool("hand");
        else choose(null);
      },
      Enter: () => enter(e.shiftKey),
      " ": () => tool === "dimension" && pickHere(),
      ".": () => tool !== "hand" && lines.step(1),
      ",": () => tool !== "hand" && lines.step(-1),
      Delete: () => {
        if (!chosen) return;
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
          "Sheet to be laid out; arrow keys move what is chosen, with Shift farther, a click " +
          "with Shift chooses one more, dragging with Alt puts nothing in line, " +
          "Delete takes it away, plus and minus zoom, 0 shows it whole; with a tool, full stop " +
          "and comma go from line to line, Space picks one, Enter puts the dimension down or " +
          "cuts there, with Shift upright"
        }
        className={cx(
          "sheet-ground h-full touch-none overflow-hidden",
          tool !== "hand" && "cursor-crosshair",
        )}
        data-tool={tool}
        onPointerLeave={() => {
          heat(null);
          if (!stroke?.down) setStroke(null);
        }}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={cancel}
        onKeyDown={key}
      >
        <div ref={paper} className="relative h-full w-full origin-top-left" style={{ transform }} />
      </div>
      {stroke && tool !== "hand" && (
        <Ghost stroke={stroke} tool={tool} text={dim.offer?.text} frame={frame} />
      )}
      <PlaceButtons zoom={zoom} all={all} />
    </div>
  );
}
