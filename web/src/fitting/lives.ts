import type { ModelDocument } from "../saving/saver";
import { Engine } from "../sketch/core/engine";
import type { Shapes } from "./assemblies";
import { UnderWay } from "./underWay";

/** An assembly open in the core, with its undo; it outlives the page that shows it. */
export interface Life {
  id: number;
  engine: Engine;
  /** The shapes of parts at the sizes that they had so far, by their names. */
  made: Shapes;
  /** The state that was opened or put into the saver last. */
  base: ModelDocument;
  underWay: UnderWay;
}

let last: Life | null = null;
let spare: Engine | null = null;

/**
 * Starts a core before an assembly is there to be opened in it: it takes about a second, in which
 * the assembly and its parts come from the server.
 */
export function warmUp() {
  if (spare) return;
  spare = new Engine();
  // What is run for the first times is slow: that is a small hinge, and nobody waits for it.
  for (let k = 0; k < rehearsals; k++)
    void spare.call("fitting-open", hinge).catch(() => undefined);
}

const rehearsals = 30;

const edge = { name: "rim", form: "circle", words: "", at: [0, 0, 0], axis: [0, 0, 1], radius: 1 };
const leaf = {
  features: [edge],
  box: { Min: [0, 0, 0], Max: [1, 1, 1] },
  props: {},
  density: 0,
  deflection: 0,
  solids: 1,
  unit: "mm",
};
const component = (id: string, pinned: boolean) => ({
  id,
  name: id,
  part: "p1",
  pinned,
  pose: { turn: [1, 0, 0, 0], shift: [0, 0, 0] },
});
const hinge = {
  document: {
    hammerset: "assembly/1",
    name: "",
    unit: "mm",
    parts: [{ id: "p1", name: "leaf", file: "", sha256: "" }],
    components: [component("c1", true), component("c2", false)],
    joints: [{ id: "j1", kind: "revolute", a: "c2#rim", b: "c1#rim" }],
  },
  shapes: { p1: leaf },
};

/**
 * The life of an assembly. That which was left last is gone on with, so that one comes back from a
 * part that was edited in its place, or from another page, and can still undo.
 */
export function lifeOf(id: number, document: ModelDocument): { life: Life; before: boolean } {
  const before = last?.id === id ? last : null;
  if (before) {
    last = null;
    return { life: before, before: true };
  }
  const engine = spare ?? new Engine();
  spare = null;
  const underWay = new UnderWay(id);
  return { life: { id, engine, made: {}, base: document, underWay }, before: false };
}

/** Leaves an assembly. What was done last in it is still carried out. */
export function leave(life: Life) {
  const other = last;
  last = life;
  if (other && other !== life) void other.engine.idle().then(() => other.engine.stop());
}
