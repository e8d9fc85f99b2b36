import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import type { Kind, ModelDocument } from "../saving/saver";
import { edited, editedWith } from "./edited";

export type PartShape = Schemas["PartShape"];
export type Shapes = Record<string, PartShape>;

/** Assemblies are kept as models are: under a version, and never over what somebody else saved. */
export const assemblies: Kind = {
  name: "assembly",
  versions: true,
  path: (id) => `/api/assemblies/${id}`,
  get: (id) => ask(client.GET("/assemblies/{id}", { params: { path: { id } } })),
  put: async (id, change) => {
    const models = await editedWith(id, change.document);
    const saved = await ask(
      client.PUT("/assemblies/{id}", { params: { path: { id } }, body: { ...change, models } }),
    );
    for (const m of saved.models) edited(id, m.id, m.version);
    return { version: saved.row.version };
  },
  apart: async (row, document) => {
    const bundle = await ask(
      client.GET("/assemblies/{id}/bundle", {
        params: { path: { id: row.id } },
        parseAs: "arrayBuffer",
      }),
    );
    const made = await ask(client.POST("/assemblies", { body: { bundle: inText(bundle) } }));
    await assemblies.put(made.row.id, {
      version: made.row.version,
      document: { ...document, name: `${row.name} (other window)` },
    });
    return `/assemblies/${made.row.id}`;
  },
};

/** The bytes of a file as the contract carries them. */
export function inText(data: unknown): string {
  const bytes = new Uint8Array(data as ArrayBuffer);
  let out = "";
  for (let i = 0; i < bytes.length; i += 0x8000)
    out += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(out);
}

/** The assemblies of whoever is signed in, the last saved first. */
export function useAssemblies() {
  return useQuery({ queryKey: ["assemblies"], queryFn: () => ask(client.GET("/assemblies")) });
}

/** Starts an assembly, or takes one in from its bundle, and opens it. */
export function useStartAssembly() {
  const go = useNavigate();
  return useMutation({
    mutationFn: (body: Schemas["NewAssembly"]) => ask(client.POST("/assemblies", { body })),
    onSuccess: (a) => {
      void queries.invalidateQueries({ queryKey: ["assemblies"] });
      void go(`/assemblies/${a.row.id}`);
    },
  });
}

/** Makes parts of a state of an assembly at its sizes; all of them where none are named. */
export const makeShapes = (id: number, document: ModelDocument, parts: string[]) =>
  ask(
    client.POST("/assemblies/{id}/shapes", { params: { path: { id } }, body: { document, parts } }),
  );

/** The shapes of the parts of an assembly, as it was opened. */
export function useShapes(id: number, document: ModelDocument | undefined) {
  return useQuery({
    queryKey: ["assembly", id, "shapes"],
    queryFn: () => (document ? makeShapes(id, document, []) : {}),
    enabled: document !== undefined,
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
    refetchOnWindowFocus: false,
  });
}

/** How far the task on an assembly is, while there is one. */
export function useAssemblyProgress(id: number, running: boolean) {
  return useQuery({
    queryKey: ["assembly", id, "progress"],
    queryFn: () => ask(client.GET("/assemblies/{id}/progress", { params: { path: { id } } })),
    enabled: running,
    refetchInterval: 700,
    gcTime: 0,
  }).data;
}

export const sourcesKey = (id: number) => ["assembly", id, "sources"];

/** What the parts of an assembly came from: models, and other assemblies, with their versions. */
export function useSources(id: number) {
  return useQuery({
    queryKey: sourcesKey(id),
    queryFn: () => ask(client.GET("/assemblies/{id}/sources", { params: { path: { id } } })),
    staleTime: 0,
  });
}
