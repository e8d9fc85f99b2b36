import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { ask, client, queries } from "../api/client";
import { Trouble } from "../controls/notices";
import { sourcesKey, useSources } from "./assemblies";
import { placeQuery } from "./inPlace";
import type { Frame } from "./useFitting";

/**
 * Opens the model of a component in its place, with the others around it. A part that came along
 * with the assembly becomes a model of one's own first.
 */
export function EditHere({
  id,
  frame,
  component,
  settle,
}: {
  id: number;
  frame: Frame;
  component: string;
  settle: () => Promise<boolean>;
}) {
  const go = useNavigate();
  const sources = useSources(id);
  const row = frame.components.find((c) => c.id === component);
  const part = frame.parts.find((r) => r.part.id === row?.path[0])?.part;
  const source = sources.data?.find((s) => s.sha256 === part?.sha256);
  const open = useMutation({
    mutationFn: async () => {
      if (!part || !(await settle())) return;
      let model = source?.modelId;
      if (model === undefined) {
        const made = await ask(
          client.POST("/assemblies/{id}/models", {
            params: { path: { id } },
            body: { sha256: part.sha256 },
          }),
        );
        void queries.invalidateQueries({ queryKey: sourcesKey(id) });
        model = made.id;
      }
      void go(`/models/${model}?${placeQuery({ assembly: id, component })}`);
    },
  });
  if (!part?.file.endsWith(".json") || row?.nested || !sources.data) return null;
  const newer = source && source.newest > source.version;
  return (
    <>
      <button
        type="button"
        className="btn btn-xs"
        disabled={open.isPending || newer}
        title={
          newer
            ? "Its model was changed since: take the newer version first"
            : source
              ? "Its model, with the other components around it"
              : "Its model, with the other components around it; it becomes one of yours"
        }
        onClick={() => open.mutate()}
      >
        Edit it in its place
      </button>
      {open.error && <Trouble error={open.error} retry={() => open.mutate()} />}
    </>
  );
}
