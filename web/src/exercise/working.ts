import { useEffect } from "react";
import { useQuery } from "@tanstack/react-query";
import { type Schemas, ask, client, queries } from "../api/client";

export type Working = Schemas["Working"];

/** How often the draft of an exercise is asked after, in milliseconds. */
const often = 5_000;
/** And while something is being done to it. */
const quickly = 500;

const key = (id: number) => ["working", id];

/**
 * In whose hand the draft of an exercise is. Where a version was saved elsewhere, the page has it
 * too.
 */
export function useWorking(id: number, busy = false) {
  const q = useQuery({
    queryKey: key(id),
    queryFn: () => ask(client.GET("/exercises/{id}/working", { params: { path: { id } } })),
    refetchInterval: busy ? quickly : often,
  });
  const newest = q.data?.newest;
  useEffect(() => {
    const shown = queries.getQueryData<Schemas["Exercise"]>(["exercise", id]);
    if (newest !== undefined && shown && shown.version < newest)
      void queries.invalidateQueries({ queryKey: ["exercise", id] });
  }, [id, newest]);
  return q;
}

/** Tells what an answer said of it. */
export const nowWorking = (id: number, w: Working) => queries.setQueryData(key(id), w);

/** A change of a draft, by a name of its own: told twice, it is done once. */
export const named = (revision: number) => ({ revision, name: nameOfStep() });

export const nameOfStep = () =>
  [...crypto.getRandomValues(new Uint8Array(16))]
    .map((b) => b.toString(16).padStart(2, "0"))
    .join("");

/** What was last asked of the draft of each exercise. */
const turns = new Map<number, Promise<unknown>>();

/**
 * Asks something of the draft of an exercise when all that was asked before is answered, also by
 * another page of this window: who goes from one to the other finds done what was done there.
 */
export function inTurn<T>(id: number, run: () => Promise<T>): Promise<T> {
  const mine = (turns.get(id) ?? Promise.resolve()).then(run);
  turns.set(
    id,
    mine.catch(() => undefined),
  );
  return mine;
}

/** Undoes, does again, lets go or takes over. */
export async function moveDraft(
  id: number,
  revision: number,
  what: "undo" | "redo" | "drop" | "take",
) {
  const w = await ask(
    client.POST("/exercises/{id}/working", {
      params: { path: { id } },
      body: { step: named(revision), do: what },
    }),
  );
  nowWorking(id, w);
  return w;
}
