import { type RefObject, useEffect, useLayoutEffect, useRef } from "react";
import { flushSync } from "react-dom";
import { Problem } from "../api/client";
import type { Frame, Offer, Place, Spot } from "./core/types";
import type { Mode, Prompt, Turns } from "./modes";
import { constraintsOffered, homeRow } from "./Offers";
import { railOrder } from "./ToolRail";
import type { Sketching } from "./useSketch";

/** What the keys of the drawing board act on. */
export interface Desk {
  sk: Sketching;
  mode: Mode;
  setMode: (m: Mode) => void;
  offers: Offer[];
  /** What is chosen, and the entities of it. */
  chosen: string[];
  entities: string[];
  cursor: Spot | null;
  setCursor: (move: (c: Spot | null) => Spot) => void;
  unit: string;
  anchor: RefObject<Spot>;
  /** A field or a list has the keys. */
  busy: boolean;
  turns: Turns;
  /** It is not known yet what goes on what is chosen. */
  unsure: boolean;
  ask: (p: Prompt) => void;
  askSize: (first: string) => void;
  edit: (id: string, at: Spot, first?: string) => void;
  remove: () => void;
  cycle: (by: number, add: boolean) => void;
  nextLoose: (by: number) => void;
  leaveOff: () => void;
  /** What is typed while a field is about to open; null when none is. */
  typed: RefObject<string | null>;
  typeMore: (text: string) => void;
  dropTyped: () => void;
  constrain: (o: Offer) => void;
  /** Leaves for the part, to extrude the sketch or to go on there. */
  backToPart: (extrude: boolean) => void;
  nextEdge: (by: number) => void;
  traceEdge: () => void;
  finishOpen: () => Promise<void>;
  save: () => Promise<void>;
  /** Keys that need nothing else. */
  plain: Record<string, () => void>;
}

const startsValue = /^[0-9.(=]$/;
const arrows: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const zoom = (factor: number) =>
  window.dispatchEvent(new CustomEvent("sketch-zoom", { detail: factor }));
const put = (at: (Spot | Place) & { exact?: boolean }) =>
  window.dispatchEvent(new CustomEvent("sketch-place", { detail: at }));
const sizeOf = (k: Desk) =>
  k.sk.frame?.sizes.find((s) => k.chosen.length === 1 && s.id === k.chosen[0]);

/** Whether a letter may begin a formula for what is chosen: a name of a parameter does. */
const beginsName = (key: string, k: Desk) =>
  (k.entities.length > 0 || sizeOf(k) !== undefined) &&
  (k.sk.frame?.parameters.some((p) => p.name.startsWith(key)) ?? false);

/** Text typed at what is chosen: it changes a size that is chosen, or becomes one. */
function typeAt(text: string, k: Desk) {
  const size = sizeOf(k);
  if (size) k.edit(size.id, k.anchor.current, text);
  else if (k.mode.kind === "draw") typePlace(text, k);
  else k.askSize(text);
}

/** Delete, and Enter on a size. */
function onChosen(key: string, k: Desk): (() => void) | undefined {
  if (key === "Delete" || key === "Backspace") return k.remove;
  const size = sizeOf(k);
  return size && key === "Enter" ? () => k.edit(size.id, k.anchor.current) : undefined;
}

function typePlace(text: string, k: Desk) {
  const { sk } = k;
  const submit = async (_: string, value: string) => {
    try {
      const at = await sk.engine?.call<Place>("place", {
        text: value,
        tool: toolOf(k),
        places: now(k),
      });
      if (at) put({ ...at, exact: true });
      return true;
    } catch (error) {
      sk.say({ bad: true, text: error instanceof Problem ? error.what : "this is no place" });
      return false;
    }
  };
  const long = now(k).length === 1 ? { line: "Length", circle: "Diameter" }[toolOf(k)] : undefined;
  k.ask({
    title: long ? `${long}, or a place` : "A place: across; up",
    kinds: [],
    value: text,
    hint:
      `In ${k.unit}${long ? "; a place is" : ","} from the origin: 12; 30/2. ` +
      "It becomes a size.",
    submit,
  });
}

const toolOf = (k: Desk) => (k.mode.kind === "draw" ? k.mode.tool : "");

const now = (k: Desk) => (k.mode.kind === "draw" ? k.mode.places : []);

/** With a tool in hand Enter puts the cursor's place or ends a spline. */
function onTool(key: string, k: Desk, onBoard: boolean): (() => void) | undefined {
  return k.mode.kind === "draw" && key === "Enter" && onBoard
    ? () => (k.cursor ? put(k.cursor) : void k.finishOpen())
    : undefined;
}

/** Arrows move the keyboard's cursor, or pull what is chosen. */
function onArrow(e: KeyboardEvent, k: Desk): (() => void) | undefined {
  const by = arrows[e.key];
  const { engine, pixel } = k.sk;
  if (!by || !engine) return undefined;
  const step = (e.shiftKey ? 50 : 10) * pixel;
  const [x, y] = [by[0] * step, by[1] * step];
  if (k.mode.kind !== "choose")
    return () => k.setCursor((c) => ({ x: (c?.x ?? 0) + x, y: (c?.y ?? 0) + y }));
  const id = k.entities[0];
  return id === undefined
    ? undefined
    : () => void k.sk.show(engine.call<Frame>("nudge", { id, to: { x, y }, pixel }), true);
}

/**
 * Trimming, extending and splitting take what is nearest to the cursor, tracing the edge that was
 * come to.
 */
function onEdit(key: string, k: Desk): (() => void) | undefined {
  const { mode, cursor, sk } = k;
  if (mode.kind !== "edit") return undefined;
  if (mode.do === "trace") {
    if (key === "." || key === ",") return () => k.nextEdge(key === "." ? 1 : -1);
    return key === "Enter" ? k.traceEdge : undefined;
  }
  if (key !== "Enter" || !cursor) return undefined;
  return () =>
    void sk.engine
      ?.call<string>("nearest", { at: cursor })
      .then((id) => (id ? sk.act({ do: mode.do, id, at: cursor }) : false));
}

function onControl(e: KeyboardEvent, k: Desk): (() => void) | undefined {
  switch (e.key.toLowerCase()) {
    case "z":
      return () => void k.sk.step(e.shiftKey ? "redo" : "undo");
    case "y":
      return () => void k.sk.step("redo");
    case "s":
      return () => void k.save();
  }
  return undefined;
}

/**
 * What a single key does, and how it is taken back when it turns out to be the first letter of a
 * text.
 */
interface Single {
  run: () => void;
  back?: () => void;
  /** It changes the drawing: it waits until it is sure that nothing more is typed. */
  changes?: string;
}

function single(e: KeyboardEvent, k: Desk): Single | undefined {
  const { key } = e;
  const choosing = k.mode.kind === "choose";
  if (choosing && k.entities.length > 0) {
    const offer = constraintsOffered(k.offers)[homeRow.indexOf(key.toLowerCase())];
    if (offer) return { run: () => k.constrain(offer), changes: offer.kind.replaceAll("-", " ") };
  }
  const tool = railOrder[(Number(key) + 9) % 10];
  if (choosing && k.chosen.length === 0 && /^[0-9]$/.test(key) && tool)
    return {
      run: () => k.setMode({ kind: "draw", tool, places: [] }),
      back: () => k.setMode({ kind: "choose" }),
    };
  const before = k.chosen;
  const moves: Record<string, () => void> = {
    ...k.plain,
    n: () => k.nextLoose(1),
    b: () => k.nextLoose(-1),
  };
  const move = moves[key];
  return (
    move && {
      run: move,
      back: choosing && /[nb]/.test(key) ? () => k.sk.choose(before) : undefined,
    }
  );
}

/** Keys that are pressed in a row as such, and are no part of a text that is begun by them. */
function always(e: KeyboardEvent, k: Desk): (() => void) | undefined {
  const moves: Record<string, () => void> = {
    Escape: k.leaveOff,
    "+": () => zoom(0.8),
    "-": () => zoom(1.25),
    Home: k.plain.Home ?? (() => undefined),
    ".": () => k.cycle(1, false),
    ",": () => k.cycle(-1, false),
    ":": () => k.cycle(1, true),
    ";": () => k.cycle(-1, true),
    ">": () => k.cycle(1, true),
    "<": () => k.cycle(-1, true),
  };
  return onEdit(e.key, k) ?? moves[e.key];
}

const pause = 350; // milliseconds after which what was typed is no text that goes on

/**
 * What is typed on the drawing board. A value or a formula goes to what is chosen, or waits for a
 * choice; its letters are never commands. A single key is one when nothing follows it.
 */
class Typing {
  private text = "";
  private timer: number | undefined;
  private first: Single | undefined;

  constructor(private readonly desk: () => Desk) {}

  private end() {
    window.clearTimeout(this.timer);
    this.text = "";
    this.first = undefined;
  }

  /** Lets a key that waits act now: the hand has gone on to something else. */
  settle() {
    const first = this.first;
    this.end();
    if (first?.changes) first.run();
  }

  private toText(text: string) {
    const first = this.first;
    this.end();
    const k = this.desk();
    if (first?.back) first.back();
    typeAt(text, first?.back ? { ...k, mode: { kind: "choose" } } : k);
  }

  /** Takes a printable key; true when it was meant for the board. */
  key(e: KeyboardEvent): boolean {
    const k = this.desk();
    if (
      this.text !== "" &&
      /^[\w.()/*+ -]$/.test(e.key) &&
      !(e.key === this.text && /[nb]/.test(e.key))
    ) {
      this.toText(this.text + e.key);
      return true;
    }
    this.settle();
    const value = startsValue.test(e.key) || (k.mode.kind === "draw" && e.key === "-");
    const chosen = k.entities.length > 0 || sizeOf(k) !== undefined;
    if (value && (chosen || k.mode.kind === "draw") && (k.mode.kind !== "draw" || e.key !== ".")) {
      this.toText(e.key === "=" ? "" : e.key);
      return true;
    }
    if (k.mode.kind === "choose" && /^[a-z_]$/i.test(e.key) && beginsName(e.key, k)) {
      this.toText(e.key);
      return true;
    }
    const one = single(e, k);
    if (!one) return false;
    if (/^[q?]$/.test(e.key) || (/^[nb]$/.test(e.key) && !chosen)) {
      one.run();
      return true;
    }
    this.text = e.key;
    this.first = one;
    if (!one.changes) one.run();
    else k.sk.say({ bad: false, text: `${e.key}: ${one.changes} …` });
    this.timer = window.setTimeout(() => this.settle(), pause);
    return true;
  }
}

function answer(e: KeyboardEvent, k: Desk, typing: Typing): (() => void) | undefined {
  const t = e.target as HTMLElement;
  if (k.typed.current !== null) return typeOn(e, k);
  if (k.busy || t.closest("input, textarea, select, [role=dialog], dialog")) return undefined;
  if (e.ctrlKey || e.metaKey) return onControl(e, k);
  if (e.altKey) return e.key === "Enter" ? () => k.backToPart(e.shiftKey) : undefined;
  const onBoard = t.closest("svg[role=application]") !== null || t === document.body;
  const other =
    (k.chosen.length > 0 ? onChosen(e.key, k) : undefined) ??
    onTool(e.key, k, onBoard) ??
    (onBoard ? onArrow(e, k) : undefined) ??
    (k.mode.kind === "edit" ? onEdit(e.key, k) : undefined);
  if (other) {
    typing.settle();
    return other;
  }
  if (e.key.length === 1 && typing.key(e)) return () => undefined;
  const move = always(e, k);
  if (move) typing.settle();
  return move;
}

/** A field is about to open: what is typed meanwhile goes into it. */
function typeOn(e: KeyboardEvent, k: Desk): (() => void) | undefined {
  const text = k.typed.current ?? "";
  const keep = (next: string) => () => k.typeMore(next);
  if (e.ctrlKey || e.metaKey || e.altKey) return undefined;
  if (e.key.length === 1) return keep(text + e.key);
  if (e.key === "Backspace") return keep(text.slice(0, -1));
  if (e.key === "Enter") return keep(text.endsWith("\n") ? text : `${text}\n`);
  if (e.key === "Escape") return () => k.dropTyped();
  return undefined;
}

/**
 * Whether a key has to wait: the click before it has not chosen yet, or the letter may stand for a
 * constraint and it is not known yet which ones there are.
 */
const early = (e: KeyboardEvent, k: Desk) =>
  k.typed.current === null &&
  (k.turns.clicking() > 0 ||
    k.turns.clicks > 0 ||
    (k.unsure && k.mode.kind === "choose" && /^[a-z]$/i.test(e.key)));

/** Keys that the board may know, where no field has them. */
const ofBoard = (e: KeyboardEvent) =>
  (e.ctrlKey || e.metaKey
    ? /^[zys]$/i.test(e.key)
    : e.key.length === 1 || /^(Enter|Escape|Delete|Backspace|Home|Arrow\w+)$/.test(e.key)) &&
  (e.target as HTMLElement).closest("button, input, textarea, select, [role=dialog], dialog") ===
    null;

/** Keys that came early, in their order, to be answered one after the other. */
class KeptKeys {
  private kept: KeyboardEvent[] = [];

  constructor(
    private readonly desk: () => Desk,
    private readonly act: (e: KeyboardEvent) => void,
  ) {}

  /** Takes a key that has to wait, or that comes after one that does. */
  take(e: KeyboardEvent): boolean {
    if (!ofBoard(e) || (this.kept.length === 0 && !early(e, this.desk()))) return false;
    this.kept.push(e);
    return true;
  }

  /**
   * Answers what need not wait any more. Each key is about what the one before it has left; but
   * what is typed for a field that opens goes into it together, before it takes the keys itself.
   */
  goOn() {
    const next = () => {
      const e = this.kept.shift();
      if (e) this.act(e);
    };
    while (this.kept[0] && !early(this.kept[0], this.desk()))
      flushSync(() => {
        next();
        while (this.kept.length > 0 && this.desk().typed.current !== null) next();
      });
  }
}

/** The keys of the drawing board; Keys.tsx lists them for people. */
export function useKeys(desk: Desk) {
  const now = useRef(desk);
  const kept = useRef<KeptKeys>(null);
  useLayoutEffect(() => {
    now.current = desk;
  });
  useEffect(() => {
    const timer = window.setTimeout(() => kept.current?.goOn());
    return () => window.clearTimeout(timer);
  }, [desk.turns.clicks, desk.unsure]);
  useEffect(() => {
    const typing = new Typing(() => now.current);
    const act = (e: KeyboardEvent) => {
      const what = answer(e, now.current, typing);
      if (!what) return;
      e.preventDefault();
      what();
    };
    const early = new KeptKeys(() => now.current, act);
    kept.current = early;
    const key = (e: KeyboardEvent) => {
      if (early.take(e)) e.preventDefault();
      else act(e);
    };
    const press = () => typing.settle();
    window.addEventListener("keydown", key);
    window.addEventListener("pointerdown", press, true);
    return () => {
      window.removeEventListener("keydown", key);
      window.removeEventListener("pointerdown", press, true);
    };
  }, []);
}
