import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Problem } from "../api/client";
import { Engine } from "./core/engine";
import type { Command, Drawn, Frame, Lists, Place, SketchDocument } from "./core/types";

/** What the last thing done had to say. */
export interface Word {
  text: string;
  bad: boolean;
  /** It was done by a single key, and can be taken back here. */
  undo?: boolean;
}

/** An editing session: its picture, what is chosen, and everything that can be done with it. */
export interface Sketching {
  engine: Engine | null;
  lists: Lists | null;
  frame: Frame | null;
  /** Whether something that the hand did is not taken yet. */
  untaken: () => boolean;
  /** Counts changes, so that whoever saves knows of them. */
  edits: number;
  chosen: string[];
  choose: (ids: string[]) => void;
  word: Word | null;
  say: (word: Word | null) => void;
  looking: boolean;
  pixel: number;
  setPixel: (mm: number) => void;
  act: (command: Command) => Promise<boolean>;
  draw: (tool: string, places: Place[], sides: number) => Promise<Drawn | null>;
  step: (method: "undo" | "redo") => Promise<void>;
  show: (call: Promise<Frame>, edited: boolean) => Promise<boolean>;
  document: () => Promise<SketchDocument>;
}

const problem = (e: unknown): Word => ({
  bad: true,
  text:
    e instanceof Problem
      ? e.what + (e.remedy ? `; ${e.remedy}` : "")
      : "something went wrong in this page; reload it",
});

/** Where a sketch goes when it has changed, and when its page is left. */
export interface Keeping {
  /** Is given the sketch after every change. */
  take: (d: SketchDocument) => void;
  /** Waits until everything that the hand did has been carried out. */
  settled: () => Promise<void>;
  /** Is given what takes a moment after the page is left: the last change may still come. */
  leaving: (last: Promise<unknown>) => void;
}

/**
 * Opens an editing session. It ends when the last thing that the hand did has been carried out and
 * taken.
 */
export function useSketch(start: SketchDocument, keeping: Keeping): Sketching {
  const [engine, setEngine] = useState<Engine | null>(null);
  const [lists, setLists] = useState<Lists | null>(null);
  const [frame, setFrame] = useState<Frame | null>(null);
  const [edits, setEdits] = useState(0);
  const [selection, choose] = useState<string[]>([]);
  const [word, say] = useState<Word | null>(null);
  const [looking, setLooking] = useState(true);
  const [pixel, keepPixel] = useState(0.25);
  const scale = useRef(0.25);
  const timer = useRef<number | undefined>(undefined);
  const first = useRef(start);
  const to = useRef(keeping);
  useLayoutEffect(() => {
    to.current = keeping;
  });
  const tally = useRef({ edits: 0, taken: 0 });

  // Looking a sketch over takes longer than drawing it: it follows when the hand rests.
  const lookOver = useCallback((e: Engine) => {
    window.clearTimeout(timer.current);
    setLooking(true);
    timer.current = window.setTimeout(() => {
      e.call<Frame>("analyse", { pixel: scale.current }).then(
        (f) => {
          setFrame(f);
          setLooking(false);
        },
        (error: unknown) => say(problem(error)),
      );
    }, 60);
  }, []);

  useEffect(() => {
    const e = new Engine();
    const counts = tally.current;
    Promise.all([
      e.call<Lists>("lists", {}),
      e.call<Frame>("open", { document: first.current, pixel: scale.current }),
    ]).then(
      ([l, f]) => {
        setEngine(e);
        setLists(l);
        setFrame(f);
        lookOver(e);
      },
      (error: unknown) => say(problem(error)),
    );
    return () => {
      window.clearTimeout(timer.current);
      const { take, settled, leaving } = to.current;
      const last = settled()
        .then(() => e.idle())
        .then(() =>
          counts.edits > 0 ? e.call<SketchDocument>("document", {}).then(take) : undefined,
        )
        .catch(() => undefined); // a core that failed has nothing to give
      leaving(last);
      void last.finally(() => e.stop());
    };
  }, [lookOver]);

  // The document follows its picture; it is what is saved.
  useEffect(() => {
    if (engine && edits > 0)
      engine.call<SketchDocument>("document", {}).then(
        (d) => {
          tally.current.taken = edits;
          to.current.take(d);
        },
        () => undefined,
      );
  }, [engine, edits]);

  const show = useCallback(
    async (call: Promise<Frame>, edited: boolean) => {
      try {
        const f = await call;
        setFrame(f);
        say(null);
        if (edited) {
          tally.current.edits++;
          setEdits((n) => n + 1);
        }
        if (engine && !f.analysed) lookOver(engine);
        return true;
      } catch (error) {
        say(problem(error));
        return false;
      }
    },
    [engine, lookOver],
  );

  const act = useCallback(
    (command: Command) =>
      engine
        ? show(engine.call<Frame>("do", { command, pixel: scale.current }), true)
        : Promise.resolve(false),
    [engine, show],
  );

  const draw = useCallback(
    async (tool: string, places: Place[], sides: number) => {
      if (!engine) return null;
      try {
        const d = await engine.call<Drawn>("draw", { tool, places, sides, pixel: scale.current });
        await show(Promise.resolve(d.frame), true);
        return d;
      } catch (error) {
        say(problem(error));
        return null;
      }
    },
    [engine, show],
  );

  const step = useCallback(
    async (method: "undo" | "redo") => {
      if (engine) await show(engine.call<Frame>(method, { pixel: scale.current }), true);
    },
    [engine, show],
  );

  const setPixel = useCallback(
    (mm: number) => {
      scale.current = mm;
      keepPixel(mm);
      if (engine)
        engine
          .call<Frame>("frame", { pixel: mm })
          .then(setFrame, (error: unknown) => say(problem(error)));
    },
    [engine],
  );

  const document = useCallback(
    () =>
      engine
        ? engine.call<SketchDocument>("document", {})
        : Promise.reject(new Problem("the sketch is not open yet", undefined, 0)),
    [engine],
  );

  const untaken = useCallback(() => tally.current.taken < tally.current.edits, []);

  // What was chosen may be gone after a change.
  const chosen = useMemo(() => {
    if (!frame) return selection;
    const there = new Set(
      [...frame.curves, ...frame.points, ...frame.constraints]
        .map((e) => e.id)
        .concat("origin", "x-axis", "y-axis"),
    );
    return selection.filter((id) => there.has(id));
  }, [selection, frame]);

  return {
    engine,
    lists,
    frame,
    untaken,
    edits,
    chosen,
    choose,
    word,
    say,
    looking,
    pixel,
    setPixel,
    act,
    draw,
    step,
    show,
    document,
  };
}
