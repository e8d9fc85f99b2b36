import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schemas, ask, client } from "../api/client";
import type { SketchDocument } from "./core/types";
import type { Sketching } from "./useSketch";

type Model = Schemas["Model"];

export type SaveState = { kind: "saved" | "unsaved" | "saving" } | { kind: "failed" | "stale"; problem: Problem } | { kind: "differs"; words: string };

/** Keeps the sketch in its model a moment after every change, and never over somebody else's. */
export function useSave(model: Model, step: string, sk: Sketching) {
  const [state, setState] = useState<SaveState>({ kind: "saved" });
  const version = useRef(model.row.version);
  const stored = useRef(model.document);
  const done = useRef(0);
  const busy = useRef(false);
  const stale = useRef(false); // changed elsewhere: nothing is sent any more
  const { edits, document } = sk;
  const latest = useRef(edits);
  latest.current = edits;

  const body = useCallback(
    (d: SketchDocument) => {
      const doc = structuredClone(stored.current) as { parameters: unknown; steps: Record<string, unknown>[] };
      doc.parameters = d.parameters;
      doc.steps = doc.steps.map((s) => (s.id === step ? { ...s, entities: d.entities, constraints: d.constraints } : s));
      return doc as unknown as Model["document"];
    },
    [step],
  );

  const save = useCallback(async () => {
    if (busy.current || stale.current) return;
    busy.current = true;
    const upTo = latest.current;
    setState({ kind: "saving" });
    try {
      const next = body(await document());
      const out = await ask(client.PUT("/models/{id}", { params: { path: { id: model.row.id } }, body: { version: version.current, document: next } }));
      version.current = out.row.version;
      stored.current = next;
      done.current = upTo;
      const mine = out.sketches.find((s) => s.step === step);
      if (mine && !mine.agrees) setState({ kind: "differs", words: `saved, but the server places ${mine.point ?? "a point"} ${mine.off.toPrecision(2)} mm elsewhere` });
      else setState({ kind: latest.current === upTo ? "saved" : "unsaved" });
    } catch (e) {
      const problem = e instanceof Problem ? e : new Problem("the sketch could not be saved", "try again", 0);
      stale.current = problem.status === 409;
      setState({ kind: stale.current ? "stale" : "failed", problem });
    } finally {
      busy.current = false;
    }
  }, [body, document, model.row.id, step]);

  useEffect(() => {
    if (edits === 0 || edits === done.current || stale.current) return;
    setState({ kind: "unsaved" });
    const t = window.setInterval(() => {
      if (busy.current) return;
      window.clearInterval(t);
      if (latest.current !== done.current) void save();
    }, 900);
    return () => window.clearInterval(t);
  }, [edits, save]);

  useEffect(() => {
    const leave = (e: BeforeUnloadEvent) => {
      if (latest.current !== done.current) e.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, []);

  /** Keeps what is here as a model of its own, where another window has changed this one. */
  const saveApart = useCallback(async () => {
    const next = body(await document()) as { name?: string };
    const name = `${model.row.name} (other window)`;
    next.name = name;
    const made = await ask(client.POST("/models", { body: { name, unit: "mm", issueId: model.row.issueId, exerciseId: undefined } }));
    await ask(client.PUT("/models/{id}", { params: { path: { id: made.row.id } }, body: { version: made.row.version, document: next as unknown as Model["document"] } }));
    done.current = latest.current;
    return made.row.id;
  }, [body, document, model.row.issueId, model.row.name]);

  return { state, save, saveApart };
}
