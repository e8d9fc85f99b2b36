import { useCallback, useEffect } from "react";
import { useSearchParams } from "react-router";

/** Says in the title of the window where one is. */
export function useTitle(title: string | undefined) {
  useEffect(() => {
    document.title = title ? `${title} – Hammerset` : "Hammerset";
  }, [title]);
}

/**
 * A tab that is in the address, so that it is there again after reloading and can be sent to
 * somebody.
 */
export function useTab<T extends string>(tabs: readonly T[], first: T): [T, (tab: T) => void] {
  const [query, setQuery] = useSearchParams();
  const asked = tabs.find((t) => t === query.get("tab")) ?? first;
  const open = useCallback(
    (tab: T) =>
      setQuery(
        (q) => {
          const next = new URLSearchParams(q);
          if (tab === first) next.delete("tab");
          else next.set("tab", tab);
          return next;
        },
        { replace: true },
      ),
    [setQuery, first],
  );
  return [asked, open];
}
