import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Problem } from "../api/client";
import type { ModelDocument, Saver } from "../saving/saver";
import { type Engine, Newest } from "../sketch/core/engine";
import type { components } from "../sketch/core/session";
import type { Shapes } from "./assemblies";
import { glimpse } from "./glimpse";
import { type Life, leave, lifeOf } from "./lives";
import { type Step, takeLeft } from "./underWay";

type Core = components["schemas"];
export type Frame = Core["FittingFrame"];
/** What is seen of an assembly. */
export type Picture = Pick<Frame, "components">;
export type ComponentRow = Core["FittingComponent"];
export type Command = Core["FittingCommand"];
export type Pose = Core["FittingPose"];
export type Offer = Core["JointOffer"];
export type Joint = Core["AssemblyJoint"];
export type Preview = Core["FittingPreview"];

export type Moving = Core["FittingMoving"];
export type Motion = Core["FittingMotion"];
export type Measured = Core["FittingMeasured"];
export type Alike = Core["FittingAlike"];
export type Apart = Core["FittingApart"];
export type Cut = Core["FittingCut"];
export type Drag = Core["FittingDrag"];
export type Proposed = Core["FittingProposed"];
export type Finding = Core["FittingFinding"];
export type Plane = Core["Plane"];
export type PartRow = Core["PartRow"];

/** Makes parts of a state of an assembly at its sizes. */
export type Remake = (document: ModelDocument, parts: string[]) => Promise<Shapes>;

export interface Spot {
  component: string;
  at: [number, number, number];
}

/** Why what was under way is not done to what is there now; undefined if it can be. */
function whyNot(base: ModelDocument, now: ModelDocument, steps: Step[]) {
  const what = "the last change was still being worked out when this assembly was left";
  const remedy = "make it again if it is still wanted";
  if (JSON.stringify(base) !== JSON.stringify(now))
    return new Problem(`${what}, and the assembly was changed elsewhere since`, remedy, 0);
  return steps.some((s) => s.again)
    ? new Problem(`${what}, twice: it is not begun a third time by itself`, remedy, 0)
    : undefined;
}

/** The shape of a part, which is nested in those that come before it. */
export function shapeAt(given: Shapes, path: string[]) {
  let within: Shapes | undefined = given;
  let shape: Shapes[string] | undefined;
  for (const part of path) {
    shape = within?.[part];
    within = shape?.nest?.shapes as Shapes | undefined;
  }
  return shape;
}

/**
 * An assembly open in the core: its picture, and what can be done with it. Every change is put into
 * the saver at once.
 */
export function useFitting(
  id: number,
  document: ModelDocument,
  shapes: Shapes,
  saver: Saver,
  remake: Remake,
) {
  const engine = useRef<Engine | null>(null);
  const life = useRef<Life | null>(null);
  const pulls = useRef(new Newest());
  const [frame, setFrame] = useState<Frame | null>(null);
  const [moving, setMoving] = useState<Pose[] | null>(null);
  const [error, setError] = useState<unknown>(null);
  /** What was under way when the assembly was left has been done since. */
  const [resumed, setResumed] = useState(false);
  /** How many parts are being made at other sizes. */
  const [making, setMaking] = useState(0);
  const opened = useRef({ document, shapes });
  /** The shapes of parts at the sizes that they had so far. */
  const [made, setMade] = useState<Shapes>({});
  const took = useCallback((f: Frame, given: Shapes) => {
    const named = f.components.flatMap((c) => {
      const shape = shapeAt(given, c.path);
      return shape ? [[c.shape, shape] as const] : [];
    });
    const of = life.current;
    if (of) {
      of.made = { ...of.made, ...Object.fromEntries(named) };
      setMade(of.made);
    }
    setFrame(f);
  }, []);

  const resume = useRef<() => void>(() => undefined);
  useEffect(() => {
    const now = opened.current;
    const { life: of, before } = lifeOf(id, now.document);
    life.current = of;
    engine.current = of.engine;
    const begin = async () => {
      if (!before) return of.engine.call<Frame>("fitting-open", now);
      // What was changed meanwhile, as a part that was edited in its place, is one more step.
      if (JSON.stringify(of.base) === JSON.stringify(now.document))
        return of.engine.call<Frame>("fitting-frame", {});
      of.base = now.document;
      return of.engine.call<Frame>("fitting-adopt", now);
    };
    begin().then((f) => {
      took(f, now.shapes);
      if (!before) resume.current();
    }, setError);
    return () => {
      engine.current = null;
      leave(of);
    };
  }, [id, took]);

  /** Carries out a call that changes the assembly. */
  const change = useCallback(
    async (method: string, args: object, added: Shapes = {}) => {
      const e = engine.current;
      if (!e) return false;
      try {
        let shapes = added;
        let next = await e.call<Frame>(method, { ...args, shapes });
        if (next.needs) {
          const asked = next.needs.document as ModelDocument;
          setMaking(next.needs.parts.length);
          shapes = { ...added, ...(await remake(asked, next.needs.parts)) };
          setMaking(0);
          next = await e.call<Frame>(method, { ...args, shapes });
        }
        const now = await e.call<ModelDocument>("fitting-document", {});
        if (life.current) life.current.base = now;
        saver.put(now, next.undo);
        took(next, shapes);
        setMoving(null);
        setError(null);
        return true;
      } catch (trouble) {
        setError(trouble);
        setMoving(null);
        setMaking(0);
        return false;
      }
    },
    [saver, remake, took],
  );

  const carryOut = useCallback(
    async (of: Life, step: Step) => {
      const done = await change("fitting-do", { command: step.command }, step.added);
      of.underWay.end(step, of.base);
      return done;
    },
    [change],
  );
  const act = useCallback(
    (command: Command, added?: Shapes) => {
      const of = life.current;
      if (!of) return Promise.resolve(false);
      const step = { command, added };
      const room = of.underWay.begin([step], of.base);
      const done = carryOut(of, step);
      saver.expect(done, room);
      return done;
    },
    [carryOut, saver],
  );
  // What was still worked out when the page was left is done now.
  useEffect(() => {
    resume.current = () => {
      const of = life.current;
      const left = takeLeft(id);
      if (!of || !left) return;
      const trouble = whyNot(left.base, of.base, left.steps);
      if (trouble) {
        setError(trouble);
        return;
      }
      const steps = left.steps.map((s) => ({ ...s, again: true }));
      const room = of.underWay.begin(steps, of.base);
      const all = async () => {
        for (const step of steps) if (await carryOut(of, step)) setResumed(true);
      };
      saver.expect(all(), room);
    };
  }, [carryOut, id, saver]);
  /** Goes back to a version, as one step. */
  const goBack = useCallback(
    async (to: ModelDocument, done: string) => {
      const back = remake(to, []).then(
        (all) => change("fitting-adopt", { document: to, done }, all),
        (trouble: unknown) => {
          setError(trouble);
          return false;
        },
      );
      saver.expect(back);
      return back;
    },
    [change, remake, saver],
  );
  const step = useCallback(
    (method: "fitting-undo" | "fitting-redo") => saver.expect(change(method, {})),
    [change, saver],
  );
  const undo = useCallback(() => step("fitting-undo"), [step]);
  const redo = useCallback(() => step("fitting-redo"), [step]);
  const offers = useCallback(
    (a: string, b: string) =>
      engine.current?.call<Offer[]>("fitting-offers", { a, b }) ?? Promise.resolve([]),
    [],
  );
  const preview = useCallback(
    (joint: Omit<Joint, "id">) =>
      engine.current?.call<Preview>("fitting-preview", { joint: { id: "new", ...joint } }) ??
      Promise.resolve(null),
    [],
  );
  const take = useCallback(
    (s: Spot) =>
      engine.current?.call<boolean>("fitting-take", { id: s.component, at: s.at }) ??
      Promise.resolve(false),
    [],
  );
  const pull = useCallback((at: Spot["at"]) => {
    pulls.current.run(async () => {
      const m = await engine.current?.call<{ poses: Pose[] }>("fitting-pull", { at });
      if (m) setMoving(m.poses);
    });
  }, []);
  /** Drives a joint to a value, and says how far it came. */
  const drive = useCallback(
    (id: string, value: number, told: (m: Moving) => void) =>
      pulls.current.run(async () => {
        try {
          const m = await engine.current?.call<Moving>("fitting-drive", { id, value });
          if (!m) return;
          setMoving(m.poses);
          told(m);
        } catch (trouble) {
          setError(trouble);
        }
      }),
    [],
  );
  /** Shows how a component can still move: to and fro, once. */
  const wiggle = useCallback(async (id: string) => {
    const frames = await engine.current?.call<Pose[][]>("fitting-wiggle", { id, frames: 40 });
    for (const poses of frames ?? []) {
      setMoving(poses);
      await new Promise((next) => window.setTimeout(next, 25));
    }
    setMoving(null);
  }, []);
  const release = useCallback(
    (keep: boolean) => {
      const done = pulls.current.done().then(() => change("fitting-release", { keep }));
      saver.expect(done);
      return done;
    },
    [change, saver],
  );
  /** Asks something of the core that changes nothing. */
  const question = useCallback(
    <T>(method: string, args: object) =>
      engine.current?.call<T>(method, args) ?? Promise.reject(new Error("closed")),
    [],
  );
  const show = useCallback((poses: Pose[] | null) => setMoving(poses), []);
  const state = useCallback(
    () =>
      engine.current?.call<ModelDocument>("fitting-document", {}) ??
      Promise.reject(new Error("closed")),
    [],
  );

  const before = useMemo(() => glimpse(document, shapes), [document, shapes]);
  const picture = frame ?? before;
  const poses = useMemo(
    () => moving ?? picture?.components.map((c) => c.pose) ?? [],
    [moving, picture],
  );
  return {
    /** What is known of the assembly, when the core has worked it out. */
    frame,
    /** What is to be seen of it, before that as well. */
    picture,
    poses,
    shapes: frame ? made : shapes,
    making,
    error,
    resumed,
    forgetResumed: useCallback(() => setResumed(false), []),
    act,
    undo,
    redo,
    goBack,
    offers,
    preview,
    show,
    take,
    pull,
    drive,
    wiggle,
    release,
    state,
    motion: (id: string) => question<Motion>("fitting-motion", { id }),
    measure: (a: string, b: string) => question<Measured[]>("fitting-measure", { a, b }),
    alike: (joint: Omit<Joint, "id">) =>
      question<Alike>("fitting-alike", { joint: { id: "new", ...joint } }),
    apart: () => question<Apart>("fitting-apart", {}),
    dragged: (drag: Drag) => question<Drag["to"]>("fitting-dragged", { drag }),
    propose: () => question<Proposed[]>("fitting-propose", {}),
    section: (plane: Plane, share: number) =>
      question<Cut[]>("fitting-section", { plane, value: share }),
    lookOver: () => question<Finding[]>("fitting-look-over", {}),
    dismiss: () => setError(null),
  };
}

export type Fitting = ReturnType<typeof useFitting>;
