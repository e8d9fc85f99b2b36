import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../api/client";
import { distance } from "../app/format";
import { Empty, Loading, Trouble } from "../controls/notices";
import type { Doc } from "./types";

/** The kept states of a model: what each did, what changed between two, and going back to one. */
export function Versions({ id, take }: { id: number; take: (d: Doc, what: string) => void }) {
  const list = useQuery({
    queryKey: ["model", id, "versions"],
    queryFn: () => ask(client.GET("/models/{id}/versions", { params: { path: { id } } })),
  });
  const [pair, setPair] = useState<number[]>([]);
  const [from, to] = [Math.min(...pair), Math.max(...pair)];
  const changes = useQuery({
    queryKey: ["model", id, "changes", from, to],
    enabled: pair.length === 2,
    staleTime: Infinity,
    queryFn: () =>
      ask(client.GET("/models/{id}/changes", { params: { path: { id }, query: { from, to } } })),
  });
  const restore = async (version: number) => {
    const v = await ask(
      client.GET("/models/{id}/versions/{version}", { params: { path: { id, version } } }),
    );
    take(v.document as unknown as Doc, `back to version ${version}`);
  };
  if (list.error) return <Trouble error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the versions" />;
  return (
    <div className="text-sm">
      <Empty>Tick two to see what changed between them.</Empty>
      {pair.length === 2 && (
        <section className="border-y border-base-300 bg-base-200 px-3 py-2" aria-label="Changes">
          <h3 className="mb-1">
            From version {from} to {to}
          </h3>
          {changes.error ? (
            <Trouble error={changes.error} />
          ) : !changes.data ? (
            "Comparing …"
          ) : changes.data.length === 0 ? (
            "Nothing changed."
          ) : (
            <ul className="list-disc pl-4">
              {changes.data.map((c, i) => (
                <li key={i}>{c.what}</li>
              ))}
            </ul>
          )}
        </section>
      )}
      <ul aria-label="Versions">
        {list.data.map((v) => (
          <li
            key={v.version}
            className="flex items-center gap-2 border-b border-base-300 px-3 py-1"
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              aria-label={`Compare version ${v.version}`}
              checked={pair.includes(v.version)}
              onChange={(e) =>
                setPair(
                  e.target.checked
                    ? [...pair, v.version].slice(-2)
                    : pair.filter((x) => x !== v.version),
                )
              }
            />
            <span className="w-7 shrink-0 font-heading tabular-nums">{v.version}</span>
            <span className="min-w-0 flex-1 truncate" title={v.what}>
              {v.what}
            </span>
            <span className="shrink-0 text-xs">{distance(v.saved)}</span>
            <button type="button" className="btn btn-xs" onClick={() => void restore(v.version)}>
              Go back to it
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
