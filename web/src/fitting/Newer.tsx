import { useMutation } from "@tanstack/react-query";
import { Problem, type Schemas, ask, client, queries } from "../api/client";
import { Panel, Trouble } from "../controls/notices";
import { type Shapes, sourcesKey, useSources } from "./assemblies";
import type { Fitting } from "./useFitting";

/** Parts whose model was saved anew since they were put in: the newer version can be taken. */
export function Newer({ id, fitting }: { id: number; fitting: Fitting }) {
  const list = useSources(id);
  const take = useMutation({
    mutationFn: async (n: Schemas["PartSource"]) => {
      const body = n.modelId ? { modelId: n.modelId } : { assemblyId: n.assemblyId };
      const made = await ask(
        client.POST("/assemblies/{id}/parts", { params: { path: { id } }, body }),
      );
      const mine = fitting.frame?.parts.filter((r) => r.part.sha256 === n.sha256) ?? [];
      for (const { part } of mine) {
        const now = made.find((m) => (m.part.solid ?? "") === (part.solid ?? ""));
        if (!now)
          throw new Problem(
            `the newer version of ${n.name} has another number of solids`,
            "replace the component by one of them",
            0,
          );
        const shapes: Shapes = part.values ? {} : { [now.part.id]: now.shape };
        await fitting.act({ do: "renew", id: part.id, part: now.part }, shapes);
      }
    },
    onSettled: () => void queries.invalidateQueries({ queryKey: sourcesKey(id) }),
  });
  const used = list.data?.filter(
    (n) => n.newest > n.version && fitting.frame?.parts.some((r) => r.part.sha256 === n.sha256),
  );
  if (!used?.length) return null;
  return (
    <Panel title="Newer versions">
      <ul>
        {used.map((n) => (
          <li key={n.sha256} className="flex items-center gap-2 px-2 py-1">
            <span className="flex-1">{n.name} was changed since.</span>
            <button
              type="button"
              className="btn btn-xs"
              disabled={take.isPending}
              onClick={() => take.mutate(n)}
            >
              Take it
            </button>
          </li>
        ))}
      </ul>
      {take.error && <Trouble error={take.error} />}
    </Panel>
  );
}
