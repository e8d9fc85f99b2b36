import { useState } from "react";

/**
 * Tells whether a value differs from that of the last picture, for state that begins anew with it.
 */
export function useChanged(...values: unknown[]): boolean {
  const [before, setBefore] = useState(values);
  const changed = values.some((v, i) => !Object.is(v, before[i]));
  if (changed) setBefore(values);
  return changed;
}
