import { type ReactNode, useCallback, useEffect, useRef, useState } from "react";
import { SheetView } from "./SheetView";

const none: string[] = [];

function read(store: string): string[] {
  try {
    return JSON.parse(localStorage.getItem(store) ?? "[]") as string[];
  } catch {
    return [];
  }
}

/**
 * A sheet with the dimensions that are ticked off: a click on a dimension ticks it. Other windows
 * that keep their ticks under the same name follow.
 */
export function TickedSheet({
  store,
  url,
  had = none,
  children,
}: {
  /** The name that the ticks are kept under in this browser. */
  store: string;
  url: string;
  /** What is ticked already. */
  had?: string[];
  children?: ReactNode;
}) {
  const [ticks, setTicks] = useState(() => read(store));
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const follow = (e: StorageEvent) => e.key === store && setTicks(read(store));
    window.addEventListener("storage", follow);
    return () => window.removeEventListener("storage", follow);
  }, [store]);
  const put = useCallback(
    (next: string[]) => {
      localStorage.setItem(store, JSON.stringify(next));
      setTicks(next);
    },
    [store],
  );
  const toggle = useCallback(
    (id: string | null) => {
      if (!id) return;
      const now = read(store);
      put(now.includes(id) ? now.filter((x) => x !== id) : [...now, id]);
    },
    [store, put],
  );
  useEffect(() => {
    // The drawing comes later than this; it is marked as soon as it is there.
    const mark = () =>
      host.current?.querySelectorAll("[data-characteristic]").forEach((e) => {
        const id = e.getAttribute("data-characteristic") ?? "";
        e.classList.toggle("is-ticked", ticks.includes(id) || had.includes(id));
      });
    mark();
    const o = new MutationObserver(mark);
    if (host.current) o.observe(host.current, { childList: true, subtree: true });
    return () => o.disconnect();
  }, [ticks, had]);
  const count = new Set([...ticks, ...had]).size;
  return (
    <div ref={host} className="relative h-full min-h-0" data-ticks={count}>
      <SheetView url={url} choose={toggle} />
      <div className="absolute top-1 left-1 flex flex-col items-start gap-1 text-xs">
        <p className="flex items-center gap-1 bg-base-100/90 px-1">
          {count === 0 ? "click a dimension to tick it off" : `${count} ticked off`}
          {ticks.length > 0 && (
            <button type="button" className="btn btn-xs" onClick={() => put([])}>
              Clear
            </button>
          )}
        </p>
        {children}
      </div>
    </div>
  );
}
