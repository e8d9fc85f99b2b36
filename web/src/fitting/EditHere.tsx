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
export function useEditHere(id: number, frame: Frame | null, settle: () => Promise<boolean>) {
  const go = useNavigate();
  const sources = useSources(id);
  const partOf = (component: string) => {
    const row = frame?.components.find((c) => c.id === component);
    const part = frame?.parts.find((r) => r.part.id === row?.path[0])?.part;
    return part?.file.endsWith(".json") && row && !row.nested && sources.data ? part : undefined;
  };
  const sourceOf = (component: string) =>
    sources.data?.find((s) => s.sha256 === partOf(component)?.sha256);
  const open = useMutation({
    mutationFn: async (component: string) => {
      const part = partOf(component);
      if (!part || !(await settle())) return;
      let model = sourceOf(component)?.modelId;
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
  return {
    open,
    may: (component: string) => partOf(component) !== undefined,
    /** Its model was changed since it was put in. */
    newer: (component: string) => {
      const s = sourceOf(component);
      return s !== undefined && s.newest > s.version;
    },
  };
}

export function EditHere({
  component,
  editing: { open, may, newer },
}: {
  component: string;
  editing: ReturnType<typeof useEditHere>;
}) {
  if (!may(component)) return null;
  const late = newer(component);
  return (
    <>
      <button
        type="button"
        className="btn btn-xs"
        disabled={open.isPending || late}
        title={
          late
            ? "Its model was changed since: take the newer version first"
            : "Its model, with the other components around it"
        }
        onClick={() => open.mutate(component)}
      >
        Edit it in its place
      </button>
      {open.error && <Trouble error={open.error} retry={() => open.mutate(component)} />}
    </>
  );
}
