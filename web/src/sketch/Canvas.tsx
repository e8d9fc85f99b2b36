import { type PointerEvent, type ReactNode, useCallback, useMemo, useRef, useState } from "react";
import { Newest } from "./core/engine";
import type { Command, Finding, Frame, Hit, Spot } from "./core/types";
import { Axes, Ghost, Hot, type Look, OpenPlaces, Picture, Pointer } from "./Picture";
import type { Turns } from "./modes";
import { usePlacing } from "./usePlacing";
import type { Sketching } from "./useSketch";
import { useView } from "./useView";
import { cx } from "../app/cx";
import { useChanged } from "../app/useChanged";

/** An edge of the solid behind the sketch, as a run of places on the screen. */
export interface Backdrop {
  path: string;
  edge: NonNullable<Command["edge"]>;
}

interface Press {
  /** What the tool takes here; its answer may come after the next move. */
  hit: Promise<Hit | null>;
  id: string | null;
  what: string | null;
  edge: number;
  at: Spot;
  client: Spot;
  /** Set when it has become a pull, a box or the placing of a size. */
  begun?: Promise<void>;
  state: "down" | "pull" | "box" | "pan" | "letter" | "dead";
  add: boolean;
}

interface Props {
  sk: Sketching;
  turns: Turns;
  look: Look;
  backdrop: Backdrop[];
  finding: Finding | null;
  wiggle: string[] | null;
  sides: number;
  free: boolean;
  /** What lies behind an empty sketch: x, y, width and height. */
  ground: [number, number, number, number] | null;
  /** The edge of the solid that the keyboard has come to. */
  keyEdge: number;
  /** A size was picked to be changed: its lettering is at the place. */
  edit: (id: string, client: Spot) => void;
  /** Where the field for a value is to stand. */
  anchor: (client: Spot) => void;
  /** Something to bring into view. */
  goTo: Spot | null;
  fitKey: number;
  keyCursor: Spot | null;
  children?: ReactNode;
}

/** The drawing board: shows the sketch, and turns what the hand does into calls. */
export function Canvas({
  sk,
  turns,
  look,
  backdrop,
  finding,
  wiggle,
  sides,
  free,
  edit,
  anchor,
  goTo,
  fitKey,
  keyCursor,
  keyEdge,
  ground,
  children,
}: Props) {
  const { mode, inTurn } = turns;
  const { engine, frame, show, choose, chosen, act, say } = sk;
  const seen = useView(sk, { ground, goTo, fitKey });
  const { board, size, view, spot, pan, spaceDown } = seen;
  const [moving, setMoving] = useState<Frame | null>(null);
  const [box, setBox] = useState<{ a: Spot; b: Spot } | null>(null);
  const press = useRef<Press | null>(null);
  const pulls = useMemo(() => new Newest(), []);
  const picks = useMemo(() => new Newest(), []);
  const [hot, setHot] = useState<Hit | null>(null);
  const { preview, ghost, place, forget } = usePlacing(sk, turns, {
    pixel: view.pixel,
    free,
    sides,
    keyCursor,
  });

  const tool = mode.kind === "edit" ? mode.do : "choose";
  const pick = useCallback(
    (at: Spot) =>
      engine && tool !== "trace"
        ? engine.call<Hit | null>("pick", { tool, at, pixel: view.pixel })
        : Promise.resolve(null),
    [engine, tool, view.pixel],
  );
  if (useChanged(tool, mode.kind, frame)) setHot(null);
  /** The edge of the solid under the pointer, whatever lies over it. */
  const edgeAt = (e: { clientX: number; clientY: number }) =>
    Number(
      document
        .elementsFromPoint(e.clientX, e.clientY)
        .find((x) => x.hasAttribute("data-edge"))
        ?.getAttribute("data-edge") ?? -1,
    );

  const down = (e: PointerEvent) => {
    board.current?.focus({ preventScroll: true });
    const at = spot(e);
    const hit = mode.kind === "draw" ? Promise.resolve(null) : pick(at);
    press.current = {
      hit,
      id: null,
      what: null,
      edge: edgeAt(e),
      at,
      client: { x: e.clientX, y: e.clientY },
      state: "down",
      add: e.shiftKey || e.ctrlKey || e.metaKey,
    };
    board.current?.setPointerCapture(e.pointerId);
    if (e.button === 1 || spaceDown.current) press.current.state = "pan";
    else if (e.button !== 0) press.current.state = "dead";
  };

  const taken = async (p: Press) => {
    const hit = await p.hit;
    p.id = hit?.id ?? null;
    p.what = hit?.what ?? null;
  };

  const begin = async (p: Press) => {
    if (!engine) return;
    await taken(p);
    if (p.what === "size" && p.id) {
      p.state = "letter";
      return;
    }
    if (!p.id || p.what === "mark" || p.id.endsWith("-axis") || p.id === "origin") {
      p.state = "box";
      return;
    }
    p.state = "pull";
    const ok = await engine.call<boolean>("take", { id: p.id, at: p.at });
    if (!ok) {
      p.state = "dead";
      say({
        bad: false,
        text: sk.frame?.solved
          ? "this cannot be pulled: it is traced or fixed by itself"
          : "nothing is pulled while constraints contradict each other",
      });
    }
  };

  const move = (e: PointerEvent) => {
    const at = spot(e);
    const p = press.current;
    if (!p) {
      if (mode.kind === "draw") ghost(at, e.altKey);
      else picks.run(async () => setHot(await pick(at)));
      return;
    }
    const far = Math.hypot(e.clientX - p.client.x, e.clientY - p.client.y);
    if (p.state === "down" && far > 4 && mode.kind === "choose" && !p.begun) p.begun = begin(p);
    if (p.state === "pan" || (p.state === "down" && far > 6 && mode.kind !== "choose")) {
      p.state = "pan";
      pan(e.movementX, e.movementY);
    }
    if (p.state === "box") setBox({ a: p.at, b: at });
    if (p.state === "pull" && engine)
      pulls.run(async () =>
        setMoving(await engine.call<Frame>("pull", { to: at, pixel: view.pixel })),
      );
    if (p.state === "letter" && p.id) setBox({ a: at, b: at });
  };

  const click = async (p: Press, e: PointerEvent) => {
    if (mode.kind === "edit") {
      if (mode.do === "trace") {
        const b = backdrop[p.edge];
        if (b) await act({ do: "trace", edge: b.edge });
        else
          say({
            bad: false,
            text:
              "no edge of the solid is here: " +
              "those that can be traced are drawn in broad dashes",
          });
        return;
      }
      await taken(p);
      if (!p.id) say({ bad: false, text: "no curve is here" });
      else await act({ do: mode.do, id: p.id, at: p.at });
      return;
    }
    anchor({ x: e.clientX, y: e.clientY });
    await taken(p);
    if (!p.id) {
      if (!p.add) choose([]);
      return;
    }
    if (p.what === "size" && chosen.length === 1 && chosen[0] === p.id)
      edit(p.id, { x: e.clientX, y: e.clientY });
    if (p.add)
      choose(chosen.includes(p.id) ? chosen.filter((id) => id !== p.id) : [...chosen, p.id]);
    else choose([p.id]);
  };

  const up = async (e: PointerEvent) => {
    const p = press.current;
    press.current = null;
    const at = spot(e);
    if (!p || !engine) return;
    await p.begun;
    switch (p.state) {
      case "down":
        if (mode.kind === "draw") await place(p.at, e.altKey);
        else await turns.click(() => click(p, e));
        break;
      case "pull":
        pulls.drop();
        await inTurn(async () => {
          await engine.call<Frame>("pull", { to: at, pixel: view.pixel });
          await show(engine.call<Frame>("release", { keep: true, pixel: view.pixel }), true);
        });
        setMoving(null);
        break;
      case "box": {
        const ids = await engine.call<string[]>("within", { at: p.at, to: at });
        choose(p.add ? [...new Set([...chosen, ...ids])] : ids);
        setBox(null);
        break;
      }
      case "letter":
        setBox(null);
        if (p.id) await act({ do: "place", id: p.id, at });
    }
  };

  const again = async (e: React.MouseEvent) => {
    if (!engine || mode.kind !== "choose") return;
    const hit = await pick(spot(e));
    if (!hit) return;
    const { id } = hit;
    if (hit.what === "size") edit(id, { x: e.clientX, y: e.clientY });
    else choose(await engine.call<string[]>("chain", { id }));
  };

  const now = moving ? { ...moving, regions: [], zigzags: [] } : frame;
  const w = size.w * view.pixel;
  const h = size.h * view.pixel;
  const set = useMemo(() => new Set(chosen), [chosen]);
  return (
    <div className="relative h-full min-h-0 min-w-0 overflow-hidden">
      <svg
        ref={board}
        tabIndex={0}
        role="application"
        aria-label="Drawing board. Press q to type what you want to do, question mark for the keys."
        data-mode={mode.kind === "draw" ? mode.tool : mode.kind === "edit" ? mode.do : "choose"}
        className={cx(
          "k-board absolute inset-0 h-full w-full",
          mode.kind !== "choose" ? "cursor-crosshair" : hot && "cursor-pointer",
        )}
        data-hot={hot?.id ?? ""}
        viewBox={`${view.x} ${view.y} ${w} ${h}`}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={(e) => void up(e)}
        onDoubleClick={(e) => void again(e)}
        onPointerLeave={() => {
          forget();
          setHot(null);
        }}
      >
        <Axes view={{ x: view.x, y: view.y, w, h }} pixel={view.pixel} chosen={set} />
        {backdrop.map((b, i) => (
          <g
            key={i}
            data-edge={i}
            className={cx(
              "k-edge",
              tool === "trace" && "is-live",
              tool === "trace" && keyEdge === i && "is-hot",
            )}
          >
            <path d={b.path} />
            <path className="k-hit" data-edge={i} d={b.path} />
          </g>
        ))}
        {now && <Picture frame={now} pixel={view.pixel} look={look} wiggle={wiggle} />}
        {hot && frame && !moving && mode.kind !== "draw" && (
          <Hot frame={frame} hit={hot} pixel={view.pixel} />
        )}
        {preview && mode.kind === "draw" && <Ghost preview={preview} pixel={view.pixel} />}
        {keyCursor && mode.kind === "edit" && (
          <path
            className="k-cursor"
            d="M-9 0h18M0 -9v18"
            transform={`translate(${keyCursor.x} ${keyCursor.y}) scale(${view.pixel})`}
          />
        )}
        {frame && !moving && <OpenPlaces findings={frame.findings} pixel={view.pixel} />}
        {finding && <Pointer finding={finding} pixel={view.pixel} />}
        {box && (
          <rect
            className="k-box"
            x={Math.min(box.a.x, box.b.x)}
            y={Math.min(box.a.y, box.b.y)}
            width={Math.abs(box.a.x - box.b.x)}
            height={Math.abs(box.a.y - box.b.y)}
          />
        )}
      </svg>
      {children}
      {mode.kind === "draw" && (
        <p
          className="pointer-events-none absolute bottom-2 left-3 bg-base-100/85 px-1 text-sm"
          role="status"
        >
          {sk.lists?.tools.find((t) => t.id === mode.tool)?.name}: give {preview?.ask ?? "a place"}
          {mode.places.length > 0 && sk.lists?.tools.find((t) => t.id === mode.tool)?.open
            ? "; Enter ends it"
            : ""}
          . Alt holds guesses off, Esc ends.
        </p>
      )}
    </div>
  );
}
