import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { ask, client } from "../api/client";
import { Loading, Trouble } from "../app/states";
import { SketchEditor } from "./SketchEditor";

/** A sketch step of a model, opened for editing. */
export function SketchPage() {
  const { id: idText, step = "" } = useParams();
  const id = Number(idText);
  // Opened once: what is on the board is newer than anything fetched later.
  const model = useQuery({ queryKey: ["model", id, "open", step], queryFn: () => ask(client.GET("/models/{id}", { params: { path: { id } } })), staleTime: Infinity, gcTime: 0, refetchOnWindowFocus: false, refetchOnReconnect: false });
  const placed = useQuery({ queryKey: ["model", id, "sketch", step], queryFn: () => ask(client.GET("/models/{id}/sketches/{step}", { params: { path: { id, step } } })), staleTime: Infinity, gcTime: 0, refetchOnWindowFocus: false, refetchOnReconnect: false });
  const name = placed.data?.name || step;
  useEffect(() => {
    document.title = `${name} – Hammerset`;
    return () => void (document.title = "Hammerset");
  }, [name]);
  if (model.error ?? placed.error) return <div className="p-6"><Trouble error={model.error ?? placed.error} retry={() => { void model.refetch(); void placed.refetch(); }} /></div>;
  if (!model.data || !placed.data) return <Loading what="the sketch" />;
  return <SketchEditor key={`${id}/${step}`} model={model.data} step={step} placed={placed.data} />;
}
