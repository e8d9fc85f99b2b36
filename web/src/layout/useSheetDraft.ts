import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";

export type SheetDraft = Schemas["SheetDraft"];
export type Command = Schemas["SheetCommand"];
export type Offer = Schemas["SheetOffer"];
/** What of an exercise is worked on. */
type Work = Pick<SheetDraft, "sheet" | "characteristics">;

/** A sheet that is worked on, kept in the browser until it is saved. */
interface Kept {
  /** That it was begun from. */
  version: number;
  past: Work[];
  now: Work;
  future: Work[];
  /** What was done last, until the core has done it: who leaves at once finds it done. */
  waiting: Command[];
}

const workOf = ({ sheet, characteristics }: SheetDraft): Work => ({ sheet, characteristics });

const post = (id: number, body: Schemas["SheetChange"]) =>
  ask(client.POST("/exercises/{id}/sheet/draft", { params: { path: { id } }, body }));

/**
 * The sheet of an exercise as it is worked on. What is done to it waits for its turn; the core says
 * what the sheet is afterwards, and how it is drawn. Version is that which the exercise has now.
 */
export function useSheetDraft(id: number, version: number) {
  const { value: work, again, set, drop } = useKept<Kept | null>(`drawing/${id}`, null);
  /** It was done before the page was opened, even if what waited is carried out now. */
  const [before] = useState(again);
  const [drawn, setDrawn] = useState<SheetDraft | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(0);
  const latest = useRef(work);
  const shown = useRef<SheetDraft | null>(null);
  const turn = useRef<Promise<unknown>>(Promise.resolve());

  const inTurn = useCallback((run: () => Promise<void>) => {
    setBusy((n) => n + 1);
    turn.current = turn.current
      .then(run)
      .then(() => setError(null))
      .catch((e: unknown) => setError(e))
      .finally(() => setBusy((n) => n - 1));
  }, []);
  const draw = useCallback((d: SheetDraft) => {
    shown.current = d;
    setDrawn(d);
  }, []);
  const put = useCallback(
    (next: Kept | null) => {
      latest.current = next;
      if (next) set(next);
      else drop(null);
    },
    [set, drop],
  );
  /** Shows a state that was there before. */
  const show = useCallback(
    async (next: Kept | null) => {
      const d = await post(id, { version: next?.version ?? 0, save: false, ...next?.now });
      // What was done meanwhile still waits.
      if (next !== latest.current) put(next && { ...next, waiting: latest.current?.waiting ?? [] });
      draw(d);
    },
    [id, put, draw],
  );

  /** Carries out what waits. */
  const carryOut = useCallback(async () => {
    for (let w = latest.current; w; w = latest.current) {
      const command = w.waiting[0];
      if (!command) return;
      try {
        const d = await post(id, { version: w.version, ...w.now, save: false, command });
        put({
          version: w.version,
          past: [...w.past, w.now].slice(-100),
          now: workOf(d),
          future: [],
          waiting: (latest.current?.waiting ?? []).slice(1),
        });
        draw(d);
      } catch (e) {
        // What cannot be done waits no longer; what the server could not be told does.
        const refused =
          e instanceof Problem && e.status >= 400 && e.status < 500 && e.status !== 401;
        const waiting = (latest.current?.waiting ?? []).slice(1);
        if (refused)
          put(w.past.length + w.future.length + waiting.length > 0 ? { ...w, waiting } : null);
        throw e;
      }
    }
  }, [id, put, draw]);
  const act = useCallback(
    (command: Command) => {
      const from = shown.current;
      if (!from) return;
      const w = latest.current;
      put(
        w
          ? { ...w, waiting: [...w.waiting, command] }
          : { version: from.version, past: [], now: workOf(from), future: [], waiting: [command] },
      );
      inTurn(carryOut);
    },
    [inTurn, carryOut, put],
  );
  /** Asks what fits what was picked, once all that was done before is done. */
  const offers = useCallback(
    async (command: Command): Promise<Offer[]> => {
      await turn.current;
      const from = latest.current?.now ?? {};
      const version = latest.current?.version ?? shown.current?.version ?? 0;
      return (await post(id, { version, ...from, save: false, command })).offers;
    },
    [id],
  );
  const undo = useCallback(
    () =>
      inTurn(async () => {
        const w = latest.current;
        const last = w?.past.at(-1);
        if (!w || !last) return;
        await show({ ...w, past: w.past.slice(0, -1), now: last, future: [w.now, ...w.future] });
      }),
    [inTurn, show],
  );
  const redo = useCallback(
    () =>
      inTurn(async () => {
        const w = latest.current;
        const next = w?.future[0];
        if (!w || !next) return;
        await show({ ...w, past: [...w.past, w.now], now: next, future: w.future.slice(1) });
      }),
    [inTurn, show],
  );
  const letGo = useCallback(() => inTurn(() => show(null)), [inTurn, show]);
  useEffect(() => {
    inTurn(async () => {
      await show(latest.current);
      await carryOut();
    });
  }, [inTurn, show, carryOut]);

  // Another version was saved while nothing is worked on: it is shown.
  useEffect(() => {
    if (!latest.current && shown.current && shown.current.version !== version)
      inTurn(() => show(null));
  }, [version, inTurn, show]);

  const save = useMutation({
    mutationFn: async () => {
      await turn.current;
      const w = latest.current;
      if (!w) return;
      draw(await post(id, { version: w.version, ...w.now, save: true }));
      put(null);
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  return {
    work,
    again: before && work !== null,
    drawn,
    error,
    busy: busy > 0,
    act,
    offers,
    undo,
    redo,
    letGo,
    save,
  };
}
