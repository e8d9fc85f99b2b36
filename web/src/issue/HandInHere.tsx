import { useMutation } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { type AttemptRow, queries, sendFile } from "../api/client";
import { useAskBeforeLeaving } from "../app/keep";
import { Dialog } from "../controls/Dialog";
import { Trouble } from "../controls/notices";

/** Hands in what is worked on here, as it stands now. */
export function HandInHere({
  what,
  issue,
  file,
  look,
  close,
}: {
  what: "model" | "assembly";
  issue: number;
  /** Saves it, and gives what is handed in. */
  file: () => Promise<File>;
  /** Looks it over. */
  look: () => void;
  close: () => void;
}) {
  const go = useNavigate();
  const [share, setShare] = useState(0);
  const stop = useRef(new AbortController());
  const send = useMutation({
    mutationFn: async () => {
      setShare(0);
      const { signal } = stop.current;
      const whole = await file();
      if (signal.aborted) return null;
      const sending = sendFile<AttemptRow>(`/api/issues/${issue}/attempts`, whole, setShare);
      signal.addEventListener("abort", sending.cancel);
      return sending.done;
    },
    onSuccess: (a) => {
      void queries.invalidateQueries();
      if (a) void go(`/attempts/${a.id}`);
    },
  });
  useAskBeforeLeaving(useCallback(() => send.isPending, [send.isPending]));
  const leave = () => {
    stop.current.abort();
    close();
  };
  return (
    <Dialog label="Hand in" close={leave}>
      <div className="text-sm">
        <p>
          The {what} goes in as it stands now; you can go on working on it. Looking it over first
          costs nothing: it tells of {what === "model" ? "loose sketches" : "loose parts"} and weak
          {what === "model" ? " steps" : " joints"}.
        </p>
        <div className="mt-3 flex flex-wrap gap-2">
          <button
            type="button"
            className="btn btn-primary btn-sm"
            autoFocus
            disabled={send.isPending}
            onClick={() => send.mutate()}
          >
            {send.isPending ? "Handing in …" : `Hand in this ${what}`}
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={send.isPending}
            onClick={() => {
              close();
              look();
            }}
          >
            Look it over first
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={leave}>
            {send.isPending ? "Stop it" : "Not now"}
          </button>
        </div>
        {send.isPending && (
          <progress className="progress mt-3 w-full" aria-label="Sending" value={share} max={1} />
        )}
        {send.error && <Trouble error={send.error} />}
      </div>
    </Dialog>
  );
}
