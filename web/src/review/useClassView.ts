import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../api/client";

/** The newest attempts of a class beside one another. */
export const useClassView = (issue: number, enabled = true) =>
  useQuery({
    queryKey: ["class-view", issue],
    enabled,
    staleTime: 10000,
    queryFn: () => ask(client.GET("/issues/{id}/class", { params: { path: { id: issue } } })),
  });
