import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Problem, type Schemas, ask, client } from "../api/client";
import type { Doc, Part } from "./types";

interface Wanted {
  key: string;
  doc: Doc;
  until?: string;
  set?: Record<string, string>;
}

export interface Rebuild {
  part: Part | undefined;
  /** The state that part belongs to is the one that is asked for. */
  fresh: boolean;
  busy: boolean;
  error: Problem | null;
  progress: Schemas["ModelProgress"] | null;
  cancel: () => void;
  retry: () => void;
  /** Milliseconds from the question to the answer, the last time. */
  took: number;
}

const most = 12; // states kept for going back and forth

/**
 * Rebuilds a state of a model on the server. One rebuild runs at a time; while it
 * runs only the newest of the states asked for waits. What was shown stays until the
 * next is there.
 */
export function useRebuild(
  id: number,
  doc: Doc | null,
  until?: string,
  set?: Record<string, string>,
): Rebuild {
  const [part, setPart] = useState<{ key: string; part: Part }>();
  const [error, setError] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const [progress, setProgress] = useState<Schemas["ModelProgress"] | null>(null);
  const [took, setTook] = useState(0);
  const cache = useRef(new Map<string, Part>());
  const next = useRef<Wanted | null>(null);
  const running = useRef<AbortController | null>(null);
  const key = doc ? JSON.stringify([doc, until, set]) : "";

  const work = useCallback(async () => {
    while (next.current) {
      const want = next.current;
      next.current = null;
      const stop = new AbortController();
      running.current = stop;
      setBusy(true);
      const started = performance.now();
      try {
        const p = await ask(
          client.POST("/models/{id}/part", {
            params: { path: { id } },
            body: { document: want.doc, until: want.until, set: want.set },
            signal: stop.signal,
          }),
        );
        cache.current.set(want.key, p);
        if (cache.current.size > most)
          cache.current.delete(cache.current.keys().next().value ?? "");
        setTook(performance.now() - started);
        setPart({ key: want.key, part: p });
        setError(null);
      } catch (e) {
        setError(
          stop.signal.aborted
            ? new Problem("the rebuild was cancelled", "what is shown is the state before", 0)
            : e instanceof Problem
              ? e
              : new Problem("the model could not be rebuilt", "try again", 0),
        );
      }
      running.current = null;
      setBusy(false);
    }
  }, [id]);

  const ask_ = useCallback(
    (want: Wanted) => {
      const known = cache.current.get(want.key);
      if (known) {
        next.current = null;
        setPart({ key: want.key, part: known });
        setError(null);
        return;
      }
      next.current = want;
      if (!running.current) void work();
    },
    [work],
  );

  useLayoutEffect(() => {
    if (doc) ask_({ key, doc, until, set });
    // The key stands for the document, where it is built up to and the values tried.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, ask_]);

  // Long rebuilds say how far they are.
  useEffect(() => {
    if (!busy) return;
    const t = window.setInterval(() => {
      client.GET("/models/{id}/progress", { params: { path: { id } } }).then(
        (r) => setProgress(r.data ?? null),
        () => undefined,
      );
    }, 700);
    return () => {
      window.clearInterval(t);
      setProgress(null);
    };
  }, [busy, id]);

  const cancel = useCallback(() => {
    next.current = null;
    running.current?.abort();
  }, []);
  const retry = () => {
    if (doc) ask_({ key, doc, until, set });
  };
  return {
    part: part?.part,
    fresh: part?.key === key,
    busy,
    error,
    progress: busy ? progress : null,
    cancel,
    retry,
    took,
  };
}
