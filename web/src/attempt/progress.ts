import { useEffect, useState } from "react";
import { type Progress, queries } from "../api/client";
import { listenTo } from "../app/events";

export const underWay = (state: string | undefined) => state === "queued" || state === "checking";

/** Follows the check of an attempt by server-sent events until it has ended. */
export function useProgress(attempt: number | null, state: string | undefined): Progress | null {
  const [progress, setProgress] = useState<{ attempt: number; value: Progress } | null>(null);
  const follow = attempt !== null && underWay(state);
  useEffect(() => {
    if (!follow || attempt === null) return;
    const stop = listenTo(`/api/attempts/${attempt}/events`, {
      progress: (data) => {
        const value = JSON.parse(data) as Progress;
        setProgress({ attempt, value });
        if (!underWay(value.state)) {
          stop();
          void queries.invalidateQueries();
        }
      },
    });
    return stop;
  }, [attempt, follow]);
  return progress && progress.attempt === attempt ? progress.value : null;
}
