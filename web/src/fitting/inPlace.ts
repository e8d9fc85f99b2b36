import { useMemo } from "react";
import { useSearchParams } from "react-router";
import { ask, client } from "../api/client";
import { type Change, type Kind, models } from "../saving/saver";
import { assemblies } from "./assemblies";
import { edited } from "./edited";

/** The place of a part in an assembly: a component. */
export interface Place {
  assembly: number;
  component: string;
}

/** A model edited in its place: it is saved with the assembly, both under their versions. */
function inPlace({ assembly, component }: Place): Kind {
  let version = 0; // of the assembly
  const body = (id: number, change: Change) => ({ component, version, model: { id, ...change } });
  return {
    ...models,
    path: () => `/api/assemblies/${assembly}/edited`,
    body,
    get: async (id) => {
      const [model, a] = await Promise.all([models.get(id), assemblies.get(assembly)]);
      version = a.row.version;
      return model;
    },
    put: async (id, change) => {
      const saved = await ask(
        client.PUT("/assemblies/{id}/edited", {
          params: { path: { id: assembly } },
          body: body(id, change),
        }),
      );
      version = saved.version;
      edited(assembly, id, saved.model.row.version);
      return { version: saved.model.row.version, answer: saved.model };
    },
  };
}

export const placeQuery = (p: Place) => `in=${p.assembly}.${p.component}`;

/** In which place of an assembly a model is edited, as the address of the page says. */
export function usePlace() {
  const [query] = useSearchParams();
  const [assembly, component] = (query.get("in") ?? "").split(".");
  return useMemo(() => {
    const place = assembly && component ? { assembly: Number(assembly), component } : null;
    return { place, kind: place ? inPlace(place) : models };
  }, [assembly, component]);
}
