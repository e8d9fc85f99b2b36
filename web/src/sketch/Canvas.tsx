import {
  type PointerEvent,
  type ReactNode,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { Newest } from "./core/engine";
import type { Command, Finding, Frame, Hit, Place, Preview, Spot } from "./core/types";
import { Axes, Ghost, Hot, type Look, OpenPlaces, Picture, Pointer } from "./Picture";
import type { Turns } from "./modes";
import type { Sketching } from "./useSketch";
import { cx } from "../app/cx";
import { useChanged } from "../app/useChanged";

/** An edge of the solid behind the sketch, as a run of places on the screen. */
export interface Backdrop {
  path: string;
  edge: NonNullable<Command["edge"]>;
}

interface View {
  x: number;
  y: number;
  pixel: number;
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
  const { mode, now: modeNow, put, inTurn } = turns;
  const { engine, frame, pixel, setPixel, show, choose, chosen, act, draw, say } = sk;
  const board = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState({ w: 600, h: 500, measured: false });
  const [view, setView] = useState<View>({ x: -70, y: -60, pixel: 0.25 });
  const [moving, setMoving] = useState<Frame | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [box, setBox] = useState<{ a: Spot; b: Spot } | null>(null);
  const press = useRef<Press | null>(null);
  const spaceDown = useRef(false);
  const pulls = useMemo(() => new Newest(), []);
  const previews = useMemo(() => new Newest(), []);
  const picks = useMemo(() => new Newest(), []);
  const [hot, setHot] = useState<Hit | null>(null);
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

  const ghost = useCallback(
    (at: Spot, hold: boolean) => {
      if (!engine || mode.kind !== "draw") return;
      const { tool, places } = mode;
      previews.run(async () => {
        try {
          setPreview(
            await engine.call<Preview>("preview", {
              tool,
              places,
              at,
              pixel: view.pixel,
              free: hold || free,
              sides,
            }),
          );
        } catch {
          setPreview(null); // the next move shows another
        }
      });
    },
    [engine, mode, previews, view.pixel, free, sides],
  );

  if (useChanged(mode) && mode.kind !== "draw") setPreview(null);

  useEffect(() => {
    if (keyCursor) ghost(keyCursor, false);
  }, [keyCursor, ghost]);

  const putOne = useCallback(
    async (at: Spot | Place, hold: boolean, exact: boolean) => {
      const mode = modeNow();
      if (!engine || mode.kind !== "draw") return;
      const tool = sk.lists?.tools.find((t) => t.id === mode.tool);
      if (!tool) return;
      const look = (loose: boolean) =>
        engine.call<Preview>("preview", {
          tool: mode.tool,
          places: mode.places,
          at,
          pixel: view.pixel,
          free: loose,
          sides,
        });
      let p = await look(hold || free);
      // A typed place is meant as it stands: a guess that would move it is left out.
      if (exact && Math.max(Math.abs(p.place.x - at.x), Math.abs(p.place.y - at.y)) > 1e-9)
        p = await look(true);
      // What was typed goes along: it becomes sizes of what is drawn.
      const typed = exact ? (at as Place) : undefined;
      const place: Place = typed
        ? {
            ...p.place,
            across: typed.across,
            up: typed.up,
            long: typed.long,
            guesses: [
              ...(p.place.guesses ?? []).filter((g) => !typed.across || g.kind === "coincident"),
              ...(typed.guesses ?? []).filter(
                (g) => !(p.place.guesses ?? []).some((q) => q.kind === g.kind),
              ),
            ],
          }
        : p.place;
      const places = [...mode.places, place];
      if (tool.open || places.length < tool.places.length) {
        put({ kind: "draw", tool: mode.tool, places });
        return;
      }
      const d = await draw(mode.tool, places, sides);
      setPreview(null);
      put({ kind: "draw", tool: mode.tool, places: d?.next && tool.chain ? [d.next] : [] });
    },
    [engine, sk.lists, view.pixel, free, sides, draw, modeNow, put],
  );
  const place = useCallback(
    (at: Spot | Place, hold: boolean, exact = false) =>
      inTurn(() => putOne(at, hold, exact)).catch((x: unknown) =>
        say({ bad: true, text: x instanceof Error ? x.message : "this place could not be put" }),
      ),
    [putOne, inTurn, say],
  );

  // The keyboard's own cursor puts its place when Enter is pressed; see useKeys.
  useEffect(() => {
    const put = (e: Event) => {
      const { exact, ...at } = (e as CustomEvent<(Spot | Place) & { exact?: boolean }>).detail;
      void place(at, false, exact);
    };
    window.addEventListener("sketch-place", put);
    return () => window.removeEventListener("sketch-place", put);
  }, [place]);

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
          ? `${p.id} cannot be pulled: it is traced or fixed by itself`
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
      setView((v) => ({ ...v, x: v.x - e.movementX * v.pixel, y: v.y - e.movementY * v.pixel }));
    }
    if (p.state === "box") setBox({ a: p.at, b: at });
    if (p.state === "pull" && engine)
      pulls.run(async () =>
        setMoving(await engine.call<Frame>("pull", { to: at, pixel: view.pixel })),
      );
    if (p.state === "letter" && p.id) setBox({ a: at, b: at });
  };

  const click = async (p: Press, e: PointerEvent) => {
    if (mode.kind === "draw") return place(p.at, e.altKey);
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
        await click(p, e);
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
          setPreview(null);
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
