import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { ask, client } from "../api/client";
import type { Form, Step } from "./types";

/** The kinds of steps as the core declares them, and the materials it knows. */
export interface Forms {
  kinds: ReadonlyMap<string, Form>;
  materials: string[];
  isSketch: (step: Step) => boolean;
  /** What a kind is called within a sentence. */
  called: (kind: string) => string;
}

export function useForms(): Forms {
  const meta = useQuery({
    queryKey: ["step-forms"],
    staleTime: Infinity,
    queryFn: () => ask(client.GET("/step-forms")),
  });
  const kinds = useMemo(
    () => new Map((meta.data?.forms ?? []).map((f) => [f.kind, f])),
    [meta.data],
  );
  const isSketch = useCallback((s: Step) => kinds.get(s.kind)?.gives === "sketch", [kinds]);
  const called = useCallback(
    (kind: string) => kinds.get(kind)?.title.toLowerCase() ?? kind,
    [kinds],
  );
  return { kinds, materials: meta.data?.materials ?? [], isSketch, called };
}
