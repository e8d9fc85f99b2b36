import { useCallback, useSyncExternalStore } from "react";
import { passes, queries } from "../api/client";

const away = () =>
  queries
    .getQueryCache()
    .getAll()
    .some((q) => q.isActive() && q.state.status === "error" && passes(q.state.error));

/** Whether something that is shown cannot be fetched for now. */
export function useOutage() {
  return useSyncExternalStore(
    useCallback((f: () => void) => queries.getQueryCache().subscribe(f), []),
    away,
  );
}
