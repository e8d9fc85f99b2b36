import { useEffect, useEffectEvent } from "react";

/**
 * Hears single keys on a page, but not what is typed into a field or pressed with Ctrl, Alt or
 * Meta.
 */
export function usePlainKeys(press: (key: string) => void) {
  const hear = useEffectEvent((e: KeyboardEvent) => {
    const typed = (e.target as Element).closest("input, textarea, select") !== null;
    if (!typed && !e.ctrlKey && !e.metaKey && !e.altKey) press(e.key);
  });
  useEffect(() => {
    const key = (e: KeyboardEvent) => hear(e);
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
}
