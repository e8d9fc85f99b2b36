import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../api/client";
import { Empty, Loading, Trouble, sentence } from "../app/states";

const percent = (v: number) => `${v >= 0 ? "+" : "−"}${Math.abs(v) < 0.1 ? Math.abs(v).toPrecision(1) : Math.abs(v).toFixed(1)} %`;

/** How each mistake would look: what a check would measure, and by how much the volume would be off. */
export function MistakeAtlas({ id, version, choose }: { id: number; version: number; choose: (balloon: number) => void }) {
  const q = useQuery({
    queryKey: ["atlas", id, version],
    queryFn: () => ask(client.GET("/exercises/{id}/atlas", { params: { path: { id } } })),
    refetchInterval: (x) => (x.state.data?.state === "waiting" ? 2500 : false),
  });
  if (q.isPending) return <Loading what="the mistake atlas" />;
  if (q.error) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  if (q.data.state === "none") return <Empty>The reference is a STEP file: it has no steps in which a mistake could be made. Wrong sizes are still found.</Empty>;
  if (q.data.state === "waiting") return <Empty>The mistakes are worked out once the exercise is issued; this takes a minute at most.</Empty>;
  return (
    <div className="h-full overflow-auto">
      <p className="px-4 py-2 text-sm">A check looks every attempt up here. Another value of any size is found besides, alone or with one of these.</p>
      <table className="table table-sm" aria-label="Mistake atlas">
        <thead><tr><th>Mistake</th><th>Likely behind it</th><th>Shows at</th><th className="text-right">Volume</th></tr></thead>
        <tbody>
          {q.data.mistakes.map((m, i) => (
            <tr key={i} className="align-top">
              <td className="min-w-44">{sentence(m.what)}</td>
              <td className="min-w-44">{sentence(m.cause)}</td>
              <td>
                {m.changes.length === 0 && <span>the whole part only</span>}
                {m.changes.map((c) => <button key={c.balloon} type="button" className="mr-3 whitespace-nowrap hover:underline" title={c.label} onClick={() => choose(c.balloon)}><span className="mr-1 inline-block min-w-5 rounded-full border border-current px-1 text-center text-xs">{c.balloon}</span>{c.sheet} → {c.measures}</button>)}
                {m.solids > 1 && <span className="whitespace-nowrap">{m.solids} solids</span>}
              </td>
              <td className="whitespace-nowrap text-right tabular-nums">{percent(m.volume)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
