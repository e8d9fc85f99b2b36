import { type RefObject, useEffect, useLayoutEffect, useRef } from "react";
import { Problem } from "../api/client";
import type { Frame, Offer, Spot } from "./core/types";
import type { Mode, Prompt } from "./modes";
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
  ask: (p: Prompt) => void;
  askSize: (first: string) => void;
  edit: (id: string, at: Spot, first?: string) => void;
  remove: () => void;
  cycle: (by: number, add: boolean) => void;
  nextLoose: (by: number) => void;
  leaveOff: () => void;
  finishOpen: () => Promise<void>;
  save: () => Promise<void>;
  /** Keys that need nothing else. */
  plain: Record<string, () => void>;
}

const startsValue = /^[0-9(=]$/;
const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const zoom = (factor: number) => window.dispatchEvent(new CustomEvent("sketch-zoom", { detail: factor }));
const put = (at: Spot & { exact?: boolean }) => window.dispatchEvent(new CustomEvent("sketch-place", { detail: at }));

/** A size starts with its first digit, a constraint with a key of the home row. */
function onChosen(key: string, k: Desk): (() => void) | undefined {
  if (key === "Delete" || key === "Backspace") return k.remove;
  const size = k.sk.frame?.sizes.find((s) => k.chosen.length === 1 && s.id === k.chosen[0]);
  if (size && (startsValue.test(key) || key === "Enter")) return () => k.edit(size.id, k.anchor.current, key === "=" || key === "Enter" ? undefined : key);
  if (k.entities.length > 0 && startsValue.test(key)) return () => k.askSize(key === "=" ? "" : key);
  const offer = constraintsOffered(k.offers)[homeRow.indexOf(key)];
  return offer && (() => void k.sk.act({ do: "constrain", kind: offer.kind, ids: k.entities }));
}

/** With a tool in hand a digit starts a place, Enter puts the cursor's or ends a spline. */
function onTool(key: string, k: Desk, onBoard: boolean): (() => void) | undefined {
  const { mode, sk } = k;
  if (mode.kind !== "draw") return undefined;
  if (key === "Enter" && onBoard) return () => (k.cursor ? put(k.cursor) : void k.finishOpen());
  if (!/^[0-9(-]$/.test(key)) return undefined;
  const submit = async (_: string, value: string) => {
    try {
      const at = await sk.engine?.call<Spot>("place", { text: value });
      if (at) put({ ...at, exact: true });
      return true;
    } catch (error) {
      sk.say({ bad: true, text: error instanceof Problem ? error.what : "this is no place" });
      return false;
    }
  };
  return () => k.ask({ title: "A place: across; up", kinds: [], value: key, hint: `In ${k.unit}, from the origin: 12; 30/2`, submit });
}

/** Arrows move the keyboard's cursor, or pull what is chosen. */
function onArrow(e: KeyboardEvent, k: Desk): (() => void) | undefined {
  const by = arrows[e.key];
  const { engine, pixel } = k.sk;
  if (!by || !engine) return undefined;
  const step = (e.shiftKey ? 50 : 10) * pixel;
  const [x, y] = [by[0] * step, by[1] * step];
  if (k.mode.kind !== "choose") return () => k.setCursor((c) => ({ x: (c?.x ?? 0) + x, y: (c?.y ?? 0) + y }));
  const id = k.entities[0];
  return id === undefined ? undefined : () => void k.sk.show(engine.call<Frame>("nudge", { id, to: { x, y }, pixel }), true);
}

/** Trimming, extending and splitting take what is nearest to the cursor. */
function onEdit(key: string, k: Desk): (() => void) | undefined {
  const { mode, cursor, sk } = k;
  if (key !== "Enter" || mode.kind !== "edit" || mode.do === "trace" || !cursor) return undefined;
  return () => void sk.engine?.call<string>("nearest", { at: cursor }).then((id) => (id ? sk.act({ do: mode.do, id, at: cursor }) : false));
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

function answer(e: KeyboardEvent, k: Desk): (() => void) | undefined {
  const t = e.target as HTMLElement;
  if (k.busy || t.closest("input, textarea, select, [role=dialog]")) return undefined;
  if (e.ctrlKey || e.metaKey) return onControl(e, k);
  if (e.altKey) return undefined;
  const onBoard = t.closest("svg[role=application]") !== null || t === document.body;
  const moves: Record<string, () => void> = {
    ...k.plain, Escape: k.leaveOff, n: () => k.nextLoose(1), b: () => k.nextLoose(-1), "+": () => zoom(0.8), "-": () => zoom(1.25),
    ".": () => k.cycle(1, false), ",": () => k.cycle(-1, false), ":": () => k.cycle(1, true), ";": () => k.cycle(-1, true), ">": () => k.cycle(1, true), "<": () => k.cycle(-1, true),
  };
  const tool = railOrder[(Number(e.key) + 9) % 10];
  return (
    (k.chosen.length > 0 ? onChosen(e.key, k) : undefined) ??
    onTool(e.key, k, onBoard) ??
    (k.mode.kind === "choose" && k.chosen.length === 0 && /^[0-9]$/.test(e.key) && tool ? () => k.setMode({ kind: "draw", tool, places: [] }) : undefined) ??
    (onBoard ? onArrow(e, k) : undefined) ??
    onEdit(e.key, k) ??
    moves[e.key]
  );
}

/** The keys of the drawing board; Keys.tsx lists them for people. */
export function useKeys(desk: Desk) {
  const now = useRef(desk);
  useLayoutEffect(() => {
    now.current = desk;
  });
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const act = answer(e, now.current);
      if (!act) return;
      e.preventDefault();
      act();
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
}
