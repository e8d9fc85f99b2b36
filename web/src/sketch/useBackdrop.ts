import { useCallback, useMemo, useState } from "react";
import type { Schemas } from "../api/client";
import type { Backdrop } from "./Canvas";
import type { Sketching } from "./useSketch";

/** The edges of the solid behind the sketch: their picture, their extent, and tracing them. */
export function useBackdrop(edges: Schemas["PlacedSketch"]["edges"], sk: Sketching) {
  const { act, say } = sk;
  const backdrop = useMemo<Backdrop[]>(
    () =>
      edges.map((edge) => ({
        edge: { ...edge, faces: edge.faces as [string, string] }, // two, as the contract has it
        path: edge.run.map((p, i) => `${i === 0 ? "M" : "L"}${p.x} ${-p.y}`).join(""),
      })),
    [edges],
  );
  const ground = useMemo<[number, number, number, number] | null>(() => {
    const all = edges.flatMap((e) => e.run);
    if (all.length === 0) return null;
    const [x0, x1] = [Math.min(...all.map((p) => p.x)), Math.max(...all.map((p) => p.x))];
    const [y0, y1] = [Math.min(...all.map((p) => -p.y)), Math.max(...all.map((p) => -p.y))];
    return [x0, y0, x1 - x0, y1 - y0];
  }, [edges]);

  /** The edge that keys have led to. */
  const [edge, setEdge] = useState(-1);
  const nextEdge = useCallback(
    (by: number) => {
      const n = backdrop.length;
      if (n === 0) return;
      const i = edge < 0 ? (by > 0 ? 0 : n - 1) : (edge + by + n) % n;
      setEdge(i);
      const kind = backdrop[i]?.edge.kind;
      say({
        bad: false,
        text: `edge ${i + 1} of ${n}, ${kind === "arc" ? "an arc" : `a ${kind}`}; Enter traces it`,
      });
    },
    [backdrop, edge, say],
  );
  const traceEdge = useCallback(() => {
    const b = backdrop[edge];
    if (b) void act({ do: "trace", edge: b.edge });
    else nextEdge(1);
  }, [backdrop, edge, act, nextEdge]);
  return { backdrop, ground, edge, nextEdge, traceEdge };
}
