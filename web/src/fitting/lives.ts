import type { ModelDocument } from "../saving/saver";
import { Engine } from "../sketch/core/engine";
import type { Shapes } from "./assemblies";

/** An assembly open in the core, with its undo; it outlives the page that shows it. */
export interface Life {
  id: number;
  engine: Engine;
  /** The shapes of parts at the sizes that they had so far, by their names. */
  made: Shapes;
  /** The state that was opened or put into the saver last. */
  base: ModelDocument;
}

let last: Life | null = null;

/**
 * The life of an assembly. That which was left last is gone on with, so that one comes back from a
 * part that was edited in its place, or from another page, and can still undo.
 */
export function lifeOf(id: number, document: ModelDocument): { life: Life; before: boolean } {
  const before = last?.id === id ? last : null;
  if (before) last = null;
  return {
    life: before ?? { id, engine: new Engine(), made: {}, base: document },
    before: before !== null,
  };
}

/** Leaves an assembly. What was done last in it is still carried out. */
export function leave(life: Life) {
  const other = last;
  last = life;
  if (other && other !== life) void other.engine.idle().then(() => other.engine.stop());
}
