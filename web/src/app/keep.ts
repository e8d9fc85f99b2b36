import { useCallback, useEffect, useState } from "react";
import { queries } from "../api/client";

// What a person typed or drew and the server does not have yet. It is kept in the browser, apart
// for
// every person who uses this machine, and survives leaving, reloading and a server that is away.

const keyOf = (name: string) =>
  `hammerset/kept/${queries.getQueryData<string>(["person"]) ?? ""}/${name}`;

/** Says whose window this is, also while the session has ended. */
export function keepFor(login: string) {
  queries.setQueryDefaults(["person"], { gcTime: Infinity });
  queries.setQueryData(["person"], login);
}

/** What is kept under a name, or undefined. */
export function kept<T>(name: string): T | undefined {
  try {
    const text = localStorage.getItem(keyOf(name));
    return text === null ? undefined : (JSON.parse(text) as T);
  } catch {
    return undefined; // unreadable: written by another version of this page
  }
}

/** Keeps a value; false where the browser has no room for it. */
export function keep(name: string, value: unknown): boolean {
  try {
    localStorage.setItem(keyOf(name), JSON.stringify(value));
    return true;
  } catch {
    return false;
  }
}

export const letGo = (name: string) => localStorage.removeItem(keyOf(name));

/**
 * A state of a form that survives leaving the page: what was typed is there again until it is let
 * go.
 */
export function useKept<T>(name: string, initial: T) {
  const [state, setState] = useState(() => ({
    name,
    value: kept<T>(name) ?? initial,
    again: kept<T>(name) !== undefined,
  }));
  const now =
    state.name === name
      ? state
      : { name, value: kept<T>(name) ?? initial, again: kept<T>(name) !== undefined };
  if (now !== state) setState(now);
  const set = useCallback(
    (value: T) => {
      keep(name, value);
      setState({ name, value, again: false });
    },
    [name],
  );
  const drop = useCallback(
    (value: T) => {
      letGo(name);
      setState({ name, value, again: false });
    },
    [name],
  );
  /** again: it was typed before the page was opened. */
  return { value: now.value, again: now.again, set, drop };
}

/**
 * Asks before the page is closed or reloaded, while there is something that can be kept nowhere.
 */
export function useAskBeforeLeaving(when: () => boolean) {
  useEffect(() => {
    const leave = (e: BeforeUnloadEvent) => {
      if (when()) e.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [when]);
}
