import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { queries } from "../api/client";
import type { ModelDocument, Opened } from "../saving/saver";
import { useSaving } from "../saving/savers";
import * as history from "./history";
import type { Doc } from "./types";

/**
 * A model under work: its document with undo and redo, kept on the server a moment after each
 * change.
 */
export function useModel({ model, saver }: Opened) {
  const id = model.row.id;
  const [h, setH] = useState(() => history.open(id, model.document as unknown as Doc));
  const saving = useSaving(saver);
  const latest = useRef(h);
  const put = useRef(JSON.stringify(model.document));

  // Before the page is drawn, so that a change and that it is not saved yet are one frame.
  useLayoutEffect(() => {
    latest.current = h;
    history.keep(id, h);
    const text = JSON.stringify(h.now.doc);
    if (text === put.current) return;
    put.current = text;
    saver.put(h.now.doc as unknown as ModelDocument, h.now.what);
  }, [id, h, saver]);

  useEffect(() => {
    if (saving.kind !== "saved") return;
    void queries.invalidateQueries({ queryKey: ["model", id, "versions"] });
  }, [id, saving.kind]);

  const change = useCallback(
    (doc: Doc, what: string) => setH((old) => history.push(old, doc, what)),
    [],
  );
  const undo = useCallback(
    () => setH((old) => (old.past.length > 0 ? { ...history.back(old) } : old)),
    [],
  );
  const redo = useCallback(() => setH(history.forth), []);
  const save = useCallback(() => saver.flush(), [saver]);

  /** Saves what is unsaved now and waits for it: before leaving the modeller. */
  const settle = useCallback(
    async (doc?: Doc, what?: string) => {
      if (doc) {
        const next = history.push(latest.current, doc, what ?? "changed");
        latest.current = next;
        setH(next);
        history.keep(id, next);
        put.current = JSON.stringify(doc);
        saver.put(doc as unknown as ModelDocument, next.now.what);
      }
      return saver.flush();
    },
    [id, saver],
  );

  return {
    doc: h.now.doc,
    undoes: h.past.length > 0 ? h.now.what : undefined,
    redoes: h.future[0]?.what,
    change,
    undo,
    redo,
    saving,
    save,
    settle,
  };
}

export type Modelling = ReturnType<typeof useModel>;
