import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Problem, type Schemas, ask, client, queries } from "../api/client";
import * as history from "./history";
import type { Doc } from "./types";

type Model = Schemas["Model"];

export type Saving = { kind: "saved" | "unsaved" | "saving" } | { kind: "failed" | "stale"; problem: Problem };

/** A model under work: its document with undo and redo, kept on the server a moment after each change. */
export function useModel(model: Model) {
  const id = model.row.id;
  const [h, setH] = useState(() => history.open(id, model.document as unknown as Doc));
  const [saving, setSaving] = useState<Saving>({ kind: "saved" });
  const version = useRef(model.row.version);
  const stored = useRef(JSON.stringify(model.document));
  const busy = useRef(false);
  const stale = useRef(false);
  const discarded = useRef(false); // what is unsaved is let go on purpose
  const latest = useRef(h);
  latest.current = h;
  useEffect(() => history.keep(id, h), [id, h]);

  const save = useCallback(async () => {
    while (!busy.current && !stale.current && JSON.stringify(latest.current.now.doc) !== stored.current) {
      busy.current = true;
      const { doc, what } = latest.current.now;
      setSaving({ kind: "saving" });
      try {
        const out = await ask(client.PUT("/models/{id}", { params: { path: { id } }, body: { version: version.current, document: doc as unknown as Model["document"], what } }));
        version.current = out.row.version;
        stored.current = JSON.stringify(doc);
        setSaving({ kind: "saved" });
        void queries.invalidateQueries({ queryKey: ["model", id, "versions"] });
        void queries.invalidateQueries({ queryKey: ["model", id, "had"] });
        busy.current = false;
      } catch (e) {
        busy.current = false;
        const problem = e instanceof Problem ? e : new Problem("the model could not be saved", "try again", 0);
        stale.current = problem.status === 409;
        setSaving({ kind: stale.current ? "stale" : "failed", problem });
        return;
      }
    }
  }, [id]);

  // Before the page is drawn, so that a change and that it is not saved yet are one frame.
  useLayoutEffect(() => {
    if (JSON.stringify(h.now.doc) === stored.current || stale.current) return;
    setSaving({ kind: "unsaved" });
    const t = window.setTimeout(() => void save(), 400);
    return () => window.clearTimeout(t);
  }, [h, save]);

  useEffect(() => {
    const leave = (e: BeforeUnloadEvent) => {
      if (!discarded.current && JSON.stringify(latest.current.now.doc) !== stored.current) e.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, []);

  const change = useCallback((doc: Doc, what: string) => setH((old) => history.push(old, doc, what)), []);
  const undo = useCallback(() => setH((old) => (old.past.length > 0 ? { ...history.back(old) } : old)), []);
  const redo = useCallback(() => setH(history.forth), []);

  /** Saves what is unsaved now and waits for it: before leaving the modeller. */
  const settle = useCallback(async (doc?: Doc, what?: string) => {
    if (doc) {
      const next = history.push(latest.current, doc, what ?? "changed");
      latest.current = next;
      setH(next);
      history.keep(id, next);
    }
    await save();
    return JSON.stringify(latest.current.now.doc) === stored.current;
  }, [id, save]);

  /** Lets go of what is unsaved and loads the model as it was saved elsewhere. */
  const discard = useCallback(() => {
    discarded.current = true;
    window.location.reload();
  }, []);

  const apart = useCallback(async () => {
    const name = `${latest.current.now.doc.name} (other window)`;
    const made = await ask(client.POST("/models", { body: { name, unit: "mm", issueId: model.row.issueId, exerciseId: undefined } }));
    await ask(client.PUT("/models/{id}", { params: { path: { id: made.row.id } }, body: { version: made.row.version, document: { ...latest.current.now.doc, name } as unknown as Model["document"] } }));
    discarded.current = true;
    return made.row.id;
  }, [model.row.issueId]);

  return { doc: h.now.doc, undoes: h.past.length > 0 ? h.now.what : undefined, redoes: h.future[0]?.what, change, undo, redo, saving, save, settle, apart, discard };
}

export type Modelling = ReturnType<typeof useModel>;
