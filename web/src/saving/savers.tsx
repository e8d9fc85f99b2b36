import { useQuery } from "@tanstack/react-query";
import {
  type ReactNode,
  createContext,
  useCallback,
  useContext,
  useState,
  useSyncExternalStore,
} from "react";
import { useNavigate } from "react-router";
import { useAskBeforeLeaving } from "../app/keep";
import { when } from "../app/format";
import { Bar, Trouble, sentence } from "../controls/notices";

import {
  type Kind,
  type ModelDocument,
  type Opened,
  type Saver,
  Savers,
  models,
  saveApart,
} from "./saver";

const Context = createContext(new Savers());

export function SaversProvider({ savers, children }: { savers: Savers; children: ReactNode }) {
  useAskBeforeLeaving(useCallback(() => savers.atRisk, [savers]));
  return <Context.Provider value={savers}>{children}</Context.Provider>;
}

export const useSavers = () => useContext(Context);

/** Opens a model or an assembly once: what is under work is newer than anything fetched later. */
export function useOpened(id: number, place: string, kind: Kind = models) {
  const savers = useSavers();
  return useQuery({
    queryKey: [kind.name, id, "open", place],
    queryFn: () => savers.open(id, kind),
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  });
}

export function useSaving(saver: Saver) {
  return useSyncExternalStore(
    useCallback((f: () => void) => saver.watch(f), [saver]),
    () => saver.state,
  );
}

const article = ({ kind }: Opened) => (/^[aeiou]/.test(kind.name) ? "an " : "a ") + kind.name;

/** What went wrong with saving, and the ways out. */
export function SaveTrouble({
  opened,
  newest,
}: {
  opened: Opened;
  newest: () => Promise<ModelDocument> | ModelDocument;
}) {
  const { saver, model } = opened;
  const state = useSaving(saver);
  const go = useNavigate();
  const [error, setError] = useState<unknown>(null);
  const [told, setTold] = useState<Opened | null>(null); // of what it was told
  const apart = async (document: Promise<ModelDocument> | ModelDocument) => {
    try {
      const page = await saveApart(opened.kind, model.row, await document);
      saver.drop();
      void go(page);
    } catch (e) {
      setError(e);
    }
  };
  const reload = () => {
    saver.drop();
    window.location.reload();
  };
  if (error !== null) return <Trouble error={error} retry={() => setError(null)} />;
  if (state.kind === "failed")
    return (
      <Bar bad>
        Not saved yet: {state.problem.what}
        {state.problem.remedy && `; ${state.problem.remedy}`}. It is kept in this browser, and
        saving goes on by itself.{" "}
        <button type="button" className="btn btn-xs" onClick={() => void saver.flush()}>
          Try now
        </button>
      </Bar>
    );
  if (state.kind === "stale")
    return (
      <Bar bad>
        {sentence(`${state.problem.what}; nothing was overwritten`)}{" "}
        <button type="button" className="btn btn-xs" onClick={reload}>
          See that change
        </button>{" "}
        <button type="button" className="btn btn-xs" onClick={() => void apart(newest())}>
          Keep mine as {article(opened)} of its own
        </button>
      </Bar>
    );
  if (opened.apart && told !== opened) {
    const document = opened.apart;
    return (
      <Bar bad>
        {`Changes that you made here were not saved, and the ${opened.kind.name} `}
        {"was changed elsewhere. "}
        <button type="button" className="btn btn-xs" onClick={() => void apart(document)}>
          Keep them as {article(opened)} of its own
        </button>{" "}
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => {
            saver.drop();
            setTold(opened);
          }}
        >
          Let them go
        </button>
      </Bar>
    );
  }
  if (opened.restored && told !== opened)
    return (
      <Bar>
        What you changed {when(opened.restored)} had not been saved; it is here again.
        {opened.kind.versions && " The state before is under “Versions”."}{" "}
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => setTold(opened)}>
          Close
        </button>
      </Bar>
    );
  return null;
}
