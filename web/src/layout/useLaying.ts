import { useCallback, useEffect, useRef, useState } from "react";
import { Problem } from "../api/client";
import { Engine } from "../sketch/core/engine";
import type { Command, SheetDraft } from "./useSheetDraft";

/** A sheet as the core in the browser lays it out, or that only the server can. */
type Laid = { elsewhere: boolean } & Pick<
  SheetDraft,
  "sheet" | "on" | "sheets" | "svg" | "width" | "height" | "characteristics" | "balloons"
>;

const sheetWorker = () =>
  new Worker(new URL("./core/sheet.worker.ts", import.meta.url), { type: "module" });

/**
 * Lays sheets out in this browser, by the same core as the server: what was done to a sheet is
 * shown before the server has carried it out, and the whole set as those have it who read it.
 */
export function useLaying(drawn: SheetDraft | null, commands: Command[]) {
  const engine = useRef<Engine | null>(null);
  /** The key of what the core lays out from. */
  const has = useRef("");
  const [laid, setLaid] = useState<{ of: SheetDraft; after: Command[]; sheet: Laid } | null>(null);
  useEffect(() => {
    const e = new Engine(sheetWorker(), "sheet");
    engine.current = e;
    return () => {
      e.stop();
      engine.current = null;
      has.current = "";
    };
  }, []);
  /** Takes what sheets are laid out from, where an answer of the server brings it. */
  const hold = useCallback((d: SheetDraft) => {
    if (!d.laying) return;
    has.current = d.key;
    engine.current?.call("hold", { laying: d.laying }).catch(() => undefined);
  }, []);
  useEffect(() => {
    if (!drawn || commands.length === 0 || has.current !== drawn.key) return;
    let stale = false;
    engine.current
      ?.call<Laid>("preview", { document: drawn.document, commands, on: drawn.on })
      .then((sheet) => {
        if (!stale && !sheet.elsewhere) setLaid({ of: drawn, after: commands, sheet });
      })
      .catch(() => undefined); // the server says what cannot be done
    return () => {
      stale = true;
    };
  }, [drawn, commands]);
  const set = useCallback(async (d: SheetDraft): Promise<Laid> => {
    const set = await engine.current?.call<Laid>("set", { document: d.document });
    if (!set || set.elsewhere)
      throw new Problem("the sheets cannot be drawn", "reload the page", 0);
    return set;
  }, []);
  const fits = drawn !== null && laid?.of === drawn && laid.after === commands;
  return { has, hold, set, sheet: fits ? laid.sheet : null };
}
