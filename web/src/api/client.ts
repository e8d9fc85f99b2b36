import { QueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Me = Schemas["Me"];
export type Desk = Schemas["Desk"];
export type Exercise = Schemas["Exercise"];
export type Issue = Schemas["Issue"];
export type IssueDetail = Schemas["IssueDetail"];
export type AskedWhatIf = Schemas["AskedWhatIf"];
export type AttemptRow = Schemas["AttemptRow"];
export type Attempt = Schemas["Attempt"];
export type Report = Schemas["Report"];
export type Verdict = Schemas["Verdict"];
export type Mesh = Schemas["Mesh"];
export type ModelRow = Schemas["ModelRow"];
export type Progress = Schemas["Progress"];

export const client = createClient<paths>({ baseUrl: "/api" });

/** What the server said was wrong, and what can be done. */
export class Problem extends Error {
  constructor(
    readonly what: string,
    readonly remedy: string | undefined,
    readonly status: number,
    /** What can be done about it at once, where there is something. */
    readonly code?: Schemas["Problem"]["code"],
  ) {
    super(what);
  }
}

interface Outcome<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

function problemOf(error: unknown, status: number): Problem {
  const p = error as Partial<Schemas["Problem"]> | undefined;
  return p?.what
    ? new Problem(p.what, p.remedy, status, p.code)
    : new Problem(
        "the server does not answer as expected",
        "reload the page and try again",
        status,
      );
}

/** Gives the data of a call, or throws its problem. */
export async function ask<T>(call: Promise<Outcome<T>>): Promise<T> {
  let out: Outcome<T>;
  try {
    out = await call;
  } catch {
    throw new Problem(
      "the server cannot be reached",
      "look whether it is running and try again",
      0,
    );
  }
  if (!out.response.ok) {
    if (out.response.status === 401 && !out.response.url.endsWith("/api/session"))
      queries.setQueryData(["me"], null);
    throw problemOf(out.error, out.response.status);
  }
  return out.data as T;
}

/** Sends a file and reports how much of it is through, from 0 to 1. */
export function sendFile<T>(
  url: string,
  file: File,
  progress: (share: number) => void,
  more: Record<string, File> = {},
): { done: Promise<T>; cancel: () => void } {
  const request = new XMLHttpRequest();
  const done = new Promise<T>((resolve, reject) => {
    request.upload.onprogress = (e) => progress(e.total > 0 ? e.loaded / e.total : 0);
    request.onload = () => {
      let body: unknown;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        body = undefined;
      }
      if (request.status >= 200 && request.status < 300) resolve(body as T);
      else reject(problemOf(body, request.status));
    };
    request.onerror = () =>
      reject(
        new Problem("the file could not be sent", "look at the connection and send it again", 0),
      );
    request.onabort = () => reject(new Problem("sending was cancelled", undefined, 0));
    request.open("POST", url);
    const form = new FormData();
    form.append("file", file);
    for (const [field, f] of Object.entries(more)) form.append(field, f);
    request.send(form);
  });
  return { done, cancel: () => request.abort() };
}

/** Whether waiting may help: the server is away or fails for now. */
export const passes = (e: unknown) => e instanceof Problem && (e.status === 0 || e.status >= 500);

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (n, e) => n < 2 && !(e instanceof Problem && e.status >= 400 && e.status < 500),
      staleTime: 2000,
      networkMode: "always",
      refetchInterval: (q) => (q.state.status === "error" && passes(q.state.error) ? 3000 : false),
    },
  },
});
