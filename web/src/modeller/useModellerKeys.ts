import { useEffect } from "react";

/** What keys do in the modeller. Plain letters do nothing while something is typed. */
export function useModellerKeys(p: {
  /** The quick entry is open, and has all keys. */
  quick: boolean;
  plain: Record<string, (e: KeyboardEvent) => void>;
  ctrl: Record<string, () => void>;
}) {
  const { quick, plain, ctrl } = p;
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const typing =
        e.target instanceof HTMLElement && e.target.closest("input, select, textarea") !== null;
      const held = e.ctrlKey || e.metaKey;
      const act = held ? ctrl[e.key] : typing && e.key !== "Escape" ? undefined : plain[e.key];
      if (!act || quick) return;
      if (typing && held && e.key !== "s") return;
      if (e.key !== "Enter") e.preventDefault();
      act(e);
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [quick, plain, ctrl]);
}
