import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../api/client";

/** What one was told last; looked for again every minute. */
export function useMessages() {
  return useQuery({
    queryKey: ["messages"],
    refetchInterval: 60000,
    queryFn: () => ask(client.GET("/messages")),
  });
}

/** What of the outside is set up: mail, and a learning platform. */
export function useOutside() {
  return useQuery({
    queryKey: ["outside"],
    staleTime: Infinity,
    queryFn: () => ask(client.GET("/session/mail")),
  });
}
