import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { type Me, ask, client } from "../api/client";
import { Loading, PageTrouble } from "../controls/notices";
import { placeQuery, usePlace } from "../fitting/inPlace";
import { Modeller } from "../modeller/Modeller";
import { useOpened } from "../saving/savers";
import { SheetBeside } from "../modeller/SheetBeside";

/** A model in the modeller. */
export function ModelPage({ me }: { me: Me }) {
  const id = Number(useParams().id);
  const { place, kind } = usePlace();
  const opened = useOpened(id, place ? placeQuery(place) : "", kind);
  if (opened.error) return <PageTrouble error={opened.error} retry={() => void opened.refetch()} />;
  if (!opened.data) return <Loading what="the model" />;
  return <Modeller key={id} opened={opened.data} me={me} place={place} />;
}

/** The sheet of a model's exercise in a window of its own. */
export function ModelSheetPage() {
  const id = Number(useParams().id);
  const model = useQuery({
    queryKey: ["model", id, "row"],
    queryFn: () => ask(client.GET("/models/{id}", { params: { path: { id } } })),
  });
  if (model.error) return <PageTrouble error={model.error} retry={() => void model.refetch()} />;
  if (!model.data) return <Loading what="the sheet" />;
  const { issueId, exerciseId } = model.data.row;
  const url = issueId
    ? `/api/issues/${issueId}/sheet`
    : exerciseId
      ? `/api/exercises/${exerciseId}/sheet`
      : null;
  return url ? (
    <SheetBeside model={id} url={url} />
  ) : (
    <p className="p-6">This model belongs to no exercise, so it has no sheet.</p>
  );
}
