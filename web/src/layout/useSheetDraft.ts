import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Problem, type Schemas, ask, client, passes, queries } from "../api/client";
import { useKept } from "../app/keep";
import { inTurn, moveDraft, nameOfStep, named, nowWorking, useWorking } from "../exercise/working";
import { useLaying } from "./useLaying";

export type SheetDraft = Schemas["SheetDraft"];
export type Command = Schemas["SheetCommand"];
export type Offer = Schemas["SheetOffer"];

/** What was done and the server has not carried out yet, by names: told twice, it is done once. */
type Waiting = { name: string; command: Command }[];

const post = (id: number, body: Schemas["SheetStep"], signal?: AbortSignal) =>
  ask(client.POST("/exercises/{id}/sheet/draft", { params: { path: { id } }, body, signal }));

const commandsOf = (waiting: Waiting) => waiting.map((w) => w.command);

const conflict = (e: unknown) => e instanceof Problem && e.status === 409;

/**
 * The sheet of an exercise as it is worked on: the draft is the server's, and goes on wherever it
 * is opened again. What is done to it waits for its turn, in this browser, so that who leaves at
 * once finds it done; the core says what the sheet is afterwards, and how it is drawn: the one in
 * this browser at once, where it can. Version is the newest of the exercise.
 */
export function useSheetDraft(id: number, version: number) {
  const { value: waiting, set, drop } = useKept<Waiting>(`sheet-commands/${id}`, []);
  const latest = useRef(waiting);
  const [drawn, setDrawn] = useState<SheetDraft | null>(null);
  const shown = useRef<SheetDraft | null>(null);
  const commands = useMemo(() => commandsOf(waiting), [waiting]);
  const { has, hold, set: layOutSet, sheet: ahead } = useLaying(drawn, commands);
  /** The number of the sheet that is seen. */
  const on = useRef(0);
  useEffect(() => {
    on.current = ahead?.on ?? drawn?.on ?? 0;
  }, [ahead, drawn]);
  /** It was there before the page was opened. */
  const [before, setBefore] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(0);
  const working = useWorking(id, busy > 0).data;
  const revision = working?.revision;
  const running = useRef<AbortController>(null);
  /** The revision of a draft that cannot be drawn. */
  const known = useRef(0);
  useEffect(() => {
    known.current = revision ?? 0;
  }, [revision]);

  const enqueue = useCallback(
    (run: () => Promise<void>) => {
      setBusy((n) => n + 1);
      void inTurn(id, run)
        .then(
          () => setError(null),
          (e: unknown) => setError(e),
        )
        .finally(() => setBusy((n) => n - 1));
    },
    [id],
  );
  const draw = useCallback(
    (d: SheetDraft) => {
      hold(d);
      shown.current = d;
      setDrawn(d);
      nowWorking(id, d.working);
    },
    [id, hold],
  );
  const wait = useCallback(
    (next: Waiting) => {
      latest.current = next;
      if (next.length > 0) set(next);
      else drop([]);
    },
    [set, drop],
  );
  /** Shows the draft as the server has it. */
  const look = useCallback(
    async (to?: number) => {
      const sheet = to ?? shown.current?.on ?? 0;
      draw(await post(id, { step: named(0), save: false, sheet, has: has.current }));
    },
    [id, draw, has],
  );

  /** Carries out what waits. */
  const carryOut = useCallback(async () => {
    let anew = true;
    for (let next = latest.current[0]; next; next = latest.current[0]) {
      const { name, command } = next;
      const step = { revision: shown.current?.working.revision ?? 0, name };
      const abort = new AbortController();
      running.current = abort;
      try {
        const body = { step, save: false, command, has: has.current };
        draw(await post(id, body, abort.signal));
        anew = true;
      } catch (e) {
        if (abort.signal.aborted) {
          wait(latest.current.slice(1));
          await look();
          continue;
        }
        if (conflict(e)) {
          await look();
          // In another window of this person it is done to what is there now; in another hand it
          // waits.
          if (anew && shown.current?.working.mine) {
            anew = false;
            continue;
          }
          throw e;
        }
        // What cannot be done waits no longer; what the server could not be told does.
        const refused =
          e instanceof Problem && e.status >= 400 && e.status < 500 && e.status !== 401;
        if (refused) wait(latest.current.slice(1));
        throw e;
      }
      wait(latest.current.slice(1));
    }
  }, [id, draw, has, look, wait]);
  const act = useCallback(
    (command: Command) => {
      if (!shown.current?.working.mine) return;
      const sheet = on.current;
      wait([...latest.current, { name: nameOfStep(), command: { ...command, sheet } }]);
      enqueue(carryOut);
    },
    [enqueue, carryOut, wait],
  );
  /** Asks what fits what was picked, once all that was done before is done. */
  const offers = useCallback(
    (command: Command): Promise<Offer[]> =>
      inTurn(id, async () => {
        const asked = { ...command, sheet: shown.current?.on ?? 0 };
        const body = { step: named(0), save: false, command: asked, has: has.current };
        const answer = await post(id, body);
        hold(answer);
        return answer.offers;
      }),
    [id, has, hold],
  );
  const move = useCallback(
    (what: "undo" | "redo" | "drop" | "take") =>
      enqueue(async () => {
        if (what === "drop") wait([]);
        const revision = shown.current?.working.revision ?? known.current;
        await moveDraft(id, revision, what).finally(look);
        if (what === "take") await carryOut();
      }),
    [id, enqueue, look, carryOut, wait],
  );
  useEffect(() => {
    enqueue(async () => {
      await look();
      setBefore(shown.current?.working.revision !== 0 || latest.current.length > 0);
      if (shown.current?.working.mine) await carryOut();
    });
  }, [enqueue, look, carryOut]);

  // What waits is told again while the server is away.
  useEffect(() => {
    if (waiting.length === 0 || !passes(error)) return;
    const again = window.setTimeout(() => enqueue(carryOut), 3000);
    return () => window.clearTimeout(again);
  }, [waiting, error, enqueue, carryOut]);

  // It was worked on elsewhere, or saved: it is shown as it is now.
  useEffect(() => {
    const w = shown.current?.working;
    if (revision === undefined || !w) return;
    enqueue(async () => {
      const now = shown.current?.working;
      if (now && (now.revision !== revision || (now.revision === 0 && now.version !== version)))
        await look();
    });
  }, [revision, version, enqueue, look]);

  const save = useMutation({
    mutationFn: (over: boolean) =>
      inTurn(id, async () => {
        const step = named(shown.current?.working.revision ?? 0);
        const at = { sheet: shown.current?.on ?? 0, has: has.current };
        draw(await post(id, { step, save: true, over, ...at }));
        setBefore(false);
      }),
    onSuccess: () => queries.invalidateQueries(),
    onError: (e) => {
      if (conflict(e)) enqueue(look);
    },
  });
  const changed = drawn !== null && (drawn.working.revision !== 0 || waiting.length > 0);
  const seen = useMemo(() => (drawn && ahead ? { ...drawn, ...ahead } : drawn), [drawn, ahead]);
  return {
    drawn: seen,
    changed,
    again: before && changed,
    waiting: waiting.length,
    error,
    busy: busy > 0,
    /** How far that is which takes long, while it does. */
    progress: busy > 0 && working?.running.stage ? working.running : null,
    cancel: useCallback(() => running.current?.abort(), []),
    act,
    /** The whole set as those have it who read it, drawn. */
    wholeSet: layOutSet,
    /** Looks at another sheet of the set. */
    turn: useCallback((sheet: number) => enqueue(() => look(sheet)), [enqueue, look]),
    offers,
    undo: useCallback(() => move("undo"), [move]),
    redo: useCallback(() => move("redo"), [move]),
    letGo: useCallback(() => move("drop"), [move]),
    take: useCallback(() => move("take"), [move]),
    save,
  };
}
