import { usePlainKeys } from "../app/usePlainKeys";

/** Steps through the balloons from the keyboard: n next, b the one before, Escape none. */
export function useBalloonKeys(
  ids: string[] | undefined,
  chosen: string | null,
  choose: (id: string | null) => void,
) {
  usePlainKeys((key) => {
    if (!ids || ids.length === 0) return;
    const at = chosen === null ? -1 : ids.indexOf(chosen);
    if (key === "n") choose(ids[(at + 1) % ids.length] ?? null);
    if (key === "b") choose(ids[(at <= 0 ? ids.length : at) - 1] ?? null);
    if (key === "Escape") choose(null);
  });
}
