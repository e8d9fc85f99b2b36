import { useCallback, useMemo, useRef, useState } from "react";
import type { Place } from "./core/types";

/** What the pointer does: chooses and pulls, draws with a tool, or edits what it is put on. */
export type Mode =
  | { kind: "choose" }
  | { kind: "draw"; tool: string; places: Place[] }
  | { kind: "edit"; do: "trim" | "extend" | "split" | "trace" };

/** What a field for a value is about. */
export interface Prompt {
  title: string;
  /** Kinds to change between with Tab. */
  kinds: { kind: string; words: string; value: string }[];
  value: string;
  /** The value stood there before: typing replaces it. */
  preset?: boolean;
  hint?: string;
  /** The size whose interval is shown. */
  size?: string;
  submit: (kind: string, value: string) => Promise<boolean>;
}

/** The mode of a drawing board, and the order in which the hand's doings change it. */
export interface Turns {
  mode: Mode;
  /** The mode as it is, before the page shows it. */
  now: () => Mode;
  /** Whether something waits for its turn. */
  busy: () => boolean;
  /** Changes the mode at once: for what is in turn. */
  put: (m: Mode) => void;
  /** Changes the mode after everything that waits. */
  change: (m: Mode) => void;
  /**
   * Does something after everything that waits: a quick hand puts the next place, or takes
   * the next tool, before the last is drawn, and each goes on from what was before it.
   */
  inTurn: (what: () => Promise<void> | void) => Promise<void>;
  /** A click that the core still looks at: keys pressed after it are about what it chooses. */
  click: (what: () => Promise<void>) => Promise<void>;
  /** How many clicks are still looked at, now and as the page shows it. */
  clicking: () => number;
  clicks: number;
}

export function useTurns(): Turns {
  const [mode, show] = useState<Mode>({ kind: "choose" });
  const current = useRef(mode);
  const last = useRef<Promise<void>>(Promise.resolve());
  const waiting = useRef(0);
  const put = useCallback((m: Mode) => {
    current.current = m;
    show(m);
  }, []);
  const now = useCallback(() => current.current, []);
  const busy = useCallback(() => waiting.current > 0, []);
  const [clicks, setClicks] = useState(0);
  const looked = useRef(0);
  const clicking = useCallback(() => looked.current, []);
  const click = useCallback((what: () => Promise<void>) => {
    setClicks(++looked.current);
    return what().finally(() => setClicks(--looked.current));
  }, []);
  const inTurn = useCallback((what: () => Promise<void> | void) => {
    waiting.current++;
    const done = last.current.then(what).finally(() => void waiting.current--);
    last.current = done.catch(() => undefined); // the next goes on all the same
    return done;
  }, []);
  const change = useCallback(
    (m: Mode) => {
      if (waiting.current === 0) put(m);
      else void inTurn(() => put(m));
    },
    [put, inTurn],
  );
  return useMemo(
    () => ({ mode, now, busy, put, change, inTurn, click, clicking, clicks }),
    [mode, now, busy, put, change, inTurn, click, clicking, clicks],
  );
}
