import type { Doc } from "./types";

/** A state of a model with what was done to reach it. */
export interface State {
  doc: Doc;
  what: string;
}

/**
 * Undo and redo of a model. It lives as long as the window, so that leaving the modeller for a
 * sketch keeps it.
 */
export interface History {
  past: State[];
  now: State;
  future: State[];
}

const kept = new Map<number, History>();

/**
 * The history of a model that was just opened: the kept one, with what was changed elsewhere since
 * as one more state.
 */
export function open(id: number, doc: Doc): History {
  const old = kept.get(id);
  if (!old) return { past: [], now: { doc, what: "opened" }, future: [] };
  if (JSON.stringify(old.now.doc) === JSON.stringify(doc)) return old;
  return push(old, doc, "sketch or change elsewhere");
}

export function push(h: History, doc: Doc, what: string): History {
  return { past: [...h.past.slice(-199), h.now], now: { doc, what }, future: [] };
}

export function back(h: History): History {
  const last = h.past.at(-1);
  return last ? { past: h.past.slice(0, -1), now: last, future: [h.now, ...h.future] } : h;
}

export function forth(h: History): History {
  const next = h.future[0];
  return next ? { past: [...h.past, h.now], now: next, future: h.future.slice(1) } : h;
}

export const keep = (id: number, h: History) => void kept.set(id, h);
