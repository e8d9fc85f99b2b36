import { useEffect } from "react";

/** Steps through the balloons from the keyboard: n next, b the one before, Escape none. */
export function useBalloonKeys(
  ids: string[] | undefined,
  chosen: string | null,
  choose: (id: string | null) => void,
) {
  useEffect(() => {
    if (!ids || ids.length === 0) return;
    const key = (e: KeyboardEvent) => {
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        (e.target as Element).closest("input, textarea, select")
      )
        return;
      const at = chosen === null ? -1 : ids.indexOf(chosen);
      if (e.key === "n") choose(ids[(at + 1) % ids.length] ?? null);
      if (e.key === "b") choose(ids[(at <= 0 ? ids.length : at) - 1] ?? null);
      if (e.key === "Escape") choose(null);
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [ids, chosen, choose]);
}
