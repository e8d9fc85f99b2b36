import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { ask, client } from "../api/client";
import { useTitle } from "../app/place";
import { Loading, PageTrouble } from "../controls/notices";
import { usePlace } from "../fitting/inPlace";
import { useOpened } from "../saving/savers";
import { SketchEditor } from "./SketchEditor";

/** A sketch step of a model, opened for editing. */
export function SketchPage() {
  const { id: idText, step = "" } = useParams();
  const id = Number(idText);
  const { kind } = usePlace();
  const model = useOpened(id, step, kind);
  const placed = useQuery({
    queryKey: ["model", id, "sketch", step],
    enabled: !!model.data,
    queryFn: () =>
      ask(client.GET("/models/{id}/sketches/{step}", { params: { path: { id, step } } })),
    staleTime: Infinity,
    gcTime: 0,
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  });
  useTitle(
    model.data && placed.data && `${placed.data.name || step}, ${model.data.model.row.name}`,
  );
  if (model.error ?? placed.error)
    return (
      <PageTrouble
        error={model.error ?? placed.error}
        retry={() => {
          void model.refetch();
          void placed.refetch();
        }}
      />
    );
  if (!model.data || !placed.data) return <Loading what="the sketch" />;
  return (
    <SketchEditor key={`${id}/${step}`} opened={model.data} step={step} placed={placed.data} />
  );
}
