import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { inTurn, moveDraft, named, nowWorking, useWorking } from "./working";

export type Draft = Schemas["Draft"];
export type Characteristic = Schemas["DraftCharacteristic"];

/** What is filled in of an exercise. */
export interface Filled {
  list: Characteristic[];
  title: string;
  number: string;
  task: string;
  material: string;
  density: string;
  /** Not there in what was kept before. */
  issuedBy?: string;
  titleBlock?: Draft["titleBlock"];
  /** What is not to be read from the drawing; not there in what was kept before. */
  refused?: Draft["refused"];
  general?: Draft["general"];
  /** How it is marked, and what it is rebuilt with. */
  rubric?: Draft["rubric"];
  whatIfs?: Draft["whatIfs"];
  whatIfFiles?: boolean;
  personal?: Draft["personal"];
}

/** How long a hand rests before what it filled in is looked at, in milliseconds. */
const rest = 250;

const filledOf = (d: Draft): Filled => ({
  list: d.characteristics,
  title: d.title,
  number: d.number,
  task: d.task,
  material: d.material,
  density: d.density,
  issuedBy: d.issuedBy,
  titleBlock: d.titleBlock,
  refused: d.refused,
  general: d.general,
  rubric: d.rubric,
  whatIfs: d.whatIfs,
  whatIfFiles: d.whatIfFiles,
  personal: d.personal,
});

const fetched = (id: number) =>
  ask(client.GET("/exercises/{id}/draft", { params: { path: { id } } }));

const begun = (d: Draft | undefined) => d && d.working.revision !== 0;

/**
 * What is checked of an exercise, as it is worked on. What is filled in is kept in this browser
 * until the server's draft has it, also where it cannot be measured yet.
 */
export function useDraft(id: number) {
  const key = ["draft", id];
  /** There was a draft before the page was opened. */
  const [before, setBefore] = useState<boolean | null>(
    () => begun(queries.getQueryData<Draft>(key)) ?? null,
  );
  const q = useQuery({
    queryKey: key,
    staleTime: Infinity,
    queryFn: async () => {
      const d = await inTurn(id, () => fetched(id));
      nowWorking(id, d.working);
      setBefore((was) => was ?? begun(d) ?? null);
      return d;
    },
  });
  const kept = useKept<Filled | null>(`characteristics/${id}`, null);
  const { value: edited, set, drop } = kept;
  const latest = useRef(edited);
  const working = useWorking(id).data;
  const draft = q.data;
  const now = edited ?? (draft && filledOf(draft));

  const fill = useCallback(
    (next: Filled) => {
      latest.current = next;
      set(next);
    },
    [set],
  );
  const letGo = useCallback(() => {
    latest.current = null;
    drop(null);
  }, [drop]);
  const revisionNow = () => queries.getQueryData<Draft>(key)?.working.revision ?? 0;
  const show = (d: Draft) => {
    nowWorking(id, d.working);
    queries.setQueryData(key, d);
  };
  const post = async (from: Filled, save: boolean, arrange: boolean, over: boolean) => {
    const { list, ...rest } = from;
    const step = named(revisionNow());
    const body = { ...rest, characteristics: list, step, arrange, save, over };
    show(await ask(client.POST("/exercises/{id}/draft", { params: { path: { id } }, body })));
  };
  // Each takes its turn at the moment at which it is asked for, whole: a page that is opened next
  // comes after it.
  const handOver = () =>
    inTurn(id, async () => {
      const from = latest.current;
      if (!from) return;
      await post(from, false, false, false);
      if (latest.current === from) letGo(); // else the next one is looked at soon
    });
  const look = useMutation({ mutationFn: handOver });
  const save = useMutation({
    mutationFn: ({ arrange, over }: { arrange: boolean; over: boolean }) =>
      inTurn(id, async () => {
        const from = latest.current ?? now;
        if (from) await post(from, true, arrange, over);
      }),
    onSuccess: () => {
      letGo();
      setBefore(false);
      look.reset();
      void queries.invalidateQueries();
    },
  });
  const move = useMutation({
    mutationFn: async (what: "undo" | "redo" | "drop" | "take") => {
      if (what === "undo" && latest.current) return letGo();
      if (what === "drop") letGo();
      await inTurn(id, async () => {
        await moveDraft(id, revisionNow(), what);
        show(await fetched(id));
      });
    },
    onError: () => q.refetch(),
    onSettled: () => {
      look.reset();
      save.reset();
    },
  });
  const lookAt = look.mutate;
  useEffect(() => {
    if (!edited) return;
    const t = setTimeout(() => lookAt(), rest);
    return () => clearTimeout(t);
  }, [edited, lookAt]);
  // Who leaves at once finds it in the draft. What goes wrong with it is told where it is opened
  // again: it is kept until then.
  const leave = useRef(handOver);
  useEffect(() => {
    leave.current = handOver;
  });
  useEffect(
    () => () => {
      if (latest.current) void leave.current().catch(() => undefined);
    },
    [],
  );

  // It was worked on elsewhere: it is shown as it is now.
  const revision = working?.revision;
  const had = draft?.working.revision;
  const busy = look.isPending || save.isPending || move.isPending || q.isFetching;
  const { refetch } = q;
  useEffect(() => {
    if (!busy && revision !== undefined && had !== undefined && revision !== had) void refetch();
  }, [busy, revision, had, refetch]);

  return {
    q,
    now,
    fill: (next: Filled) => {
      save.reset(); // what it said is being put right
      fill(next);
    },
    draft,
    working: draft?.working,
    changed: edited !== null || (draft?.working.revision ?? 0) !== 0,
    canUndo: edited !== null || (draft?.working.undo ?? 0) > 0,
    again: (kept.again && edited !== null) || (before === true && begun(draft) === true),
    looking: look.isPending,
    error: save.error ?? move.error ?? look.error,
    /** Puts what is filled in here in the place of what was done elsewhere. */
    insist: () => lookAt(),
    move,
    save,
  };
}
