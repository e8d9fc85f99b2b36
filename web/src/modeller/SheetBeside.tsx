import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, ask, client, queries } from "../api/client";
import { SheetView } from "../sheet/SheetView";

/** Where the sheet is beside the part. */
export type SheetPlace = "away" | "beside" | "over";

const none: string[] = [];
const store = (model: number) => `ticks-${model}`;

function read(model: number): string[] {
  try {
    return JSON.parse(localStorage.getItem(store(model)) ?? "[]") as string[];
  } catch {
    return [];
  }
}

/**
 * The sheet with the dimensions that are ticked off: a click on a dimension ticks it. Other
 * windows of the model follow. Where an exercise gives its results at once, what the model has is
 * ticked when one asks for it.
 */
export function SheetBeside({ model, url }: { model: number; url: string }) {
  const key = ["model", model, "had"];
  const look = useQuery({
    queryKey: key,
    queryFn: () => ask(client.GET("/models/{id}/had", { params: { path: { id: model } } })),
    retry: false,
  }).data;
  const again = useMutation({
    mutationFn: () => ask(client.POST("/models/{id}/had", { params: { path: { id: model } } })),
    onSuccess: (l) => queries.setQueryData(key, l),
  });
  const had = look?.had ?? none;
  const [ticks, setTicks] = useState(() => read(model));
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const follow = (e: StorageEvent) => e.key === store(model) && setTicks(read(model));
    window.addEventListener("storage", follow);
    return () => window.removeEventListener("storage", follow);
  }, [model]);
  const put = useCallback(
    (next: string[]) => {
      localStorage.setItem(store(model), JSON.stringify(next));
      setTicks(next);
    },
    [model],
  );
  const toggle = useCallback(
    (id: string | null) => {
      if (!id) return;
      const now = read(model);
      put(now.includes(id) ? now.filter((x) => x !== id) : [...now, id]);
    },
    [model, put],
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
      {look?.may && (
        <p className="absolute bottom-2 left-2 bg-base-100/90 px-1 text-xs">
          <button
            type="button"
            className="btn btn-xs"
            disabled={again.isPending || look.left === 0}
            onClick={() => again.mutate()}
          >
            {again.isPending ? "Looking …" : "What have I got?"}
          </button>{" "}
          {look.left === 0
            ? "no look left today"
            : `${look.left} ${look.left === 1 ? "look" : "looks"} left today`}
          {again.error instanceof Problem && ` (${again.error.what})`}
        </p>
      )}
      <p className="absolute right-2 bottom-2 flex items-center gap-1 bg-base-100/80 px-1 text-xs">
        {count === 0 ? "click a dimension to tick it off" : `${count} ticked off`}
        {ticks.length > 0 && (
          <button type="button" className="btn btn-xs" onClick={() => put([])}>
            Clear
          </button>
        )}
      </p>
    </div>
  );
}
