import { useMutation, useQuery } from "@tanstack/react-query";
import { Problem, ask, client, queries, type Me } from "../api/client";

/** Who is signed in; null when nobody is. */
export function useMe() {
  return useQuery<Me | null>({
    queryKey: ["me"],
    staleTime: 60000,
    queryFn: async () => {
      try {
        return await ask(client.GET("/session"));
      } catch (e) {
        if (e instanceof Problem && e.status === 401) return null;
        throw e;
      }
    },
  });
}

export function useSignIn() {
  return useMutation({
    mutationFn: (body: { login: string; password: string }) =>
      ask(client.POST("/session", { body })),
    onSuccess: (me) => queries.setQueryData(["me"], me),
  });
}

export function useSignOut() {
  return useMutation({
    mutationFn: () => ask(client.DELETE("/session")),
    onSettled: () => window.location.assign("/"),
  });
}

/** Whether somebody has to do with what others hand in, somewhere. */
export const isStaff = (me: Me) => me.roles.some((r) => r !== "student");

/** Whether somebody may make classes and exercises. */
export const teaches = (me: Me) =>
  me.roles.includes("instructor") || me.roles.includes("administrator");

export function useSignOutEverywhere() {
  return useMutation({
    mutationFn: () => ask(client.DELETE("/session/everywhere")),
    onSuccess: () => window.location.assign("/"),
  });
}
