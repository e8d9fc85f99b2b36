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

/** A step as it stands in a model document. */
export interface Step {
  id: string;
  kind: string;
  name?: string;
  plane?: { datum?: string; face?: string; offset?: string };
  [field: string]: unknown;
}

export interface ModelDocument {
  name: string;
  unit: string;
  parameters: { name: string; value: string }[];
  steps: Step[];
}

export const documentOf = (m: Schemas["Model"]) => m.document as unknown as ModelDocument;
