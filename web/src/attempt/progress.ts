import { useEffect, useState } from "react";
import { type Progress, queries } from "../api/client";

const underWay = (state: string | undefined) => state === "queued" || state === "checking";

/** Follows the check of an attempt by server-sent events until it has ended. */
export function useProgress(attempt: number | null, state: string | undefined): Progress | null {
  const [progress, setProgress] = useState<{ attempt: number; value: Progress } | null>(null);
  const follow = attempt !== null && underWay(state);
  useEffect(() => {
    if (!follow || attempt === null) return;
    let source: EventSource;
    let timer: number | undefined;
    const listen = () => {
      source = new EventSource(`/api/attempts/${attempt}/events`);
      source.addEventListener("progress", (e) => {
        const value = JSON.parse((e as MessageEvent<string>).data) as Progress;
        setProgress({ attempt, value });
        if (!underWay(value.state)) {
          source.close();
          void queries.invalidateQueries();
        }
      });
      // A browser gives up for good where the answer was an error: after an outage it is asked anew.
      source.onerror = () => {
        if (source.readyState === EventSource.CLOSED) timer = window.setTimeout(listen, 3000);
      };
    };
    listen();
    return () => {
      window.clearTimeout(timer);
      source.close();
    };
  }, [attempt, follow]);
  return progress && progress.attempt === attempt ? progress.value : null;
}
