import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";

/** The models of whoever is signed in, the last saved first. */
export function useModels() {
  return useQuery({ queryKey: ["models"], queryFn: () => ask(client.GET("/models")) });
}

/** Starts a model and opens it. */
export function useStartModel() {
  const go = useNavigate();
  return useMutation({
    mutationFn: (body: Schemas["NewModel"]) => ask(client.POST("/models", { body })),
    onSuccess: (m) => {
      void queries.invalidateQueries({ queryKey: ["models"] });
      void go(`/models/${m.row.id}`);
    },
  });
}
