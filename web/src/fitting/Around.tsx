import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import * as THREE from "three";
import { useReleased } from "../part/useReleased";
import { Engine } from "../sketch/core/engine";
import type { PartShape, Shapes } from "./assemblies";
import { assemblies, makeShapes } from "./assemblies";
import { bodyOf, ink, linesOf, toneOf } from "./geometry";
import type { Place } from "./inPlace";
import { type ComponentRow, shapeAt } from "./useFitting";

/** What stands around a component, in its coordinates. */
export interface Surroundings {
  assembly: string;
  component: string;
  /** Sizes that the assembly gives the part, in words. */
  sizes: string[];
  bodies: { id: string; shape: PartShape; matrix: number[]; tone: string }[];
}

async function lookAround({ assembly, component }: Place): Promise<Surroundings> {
  const { row, document } = await assemblies.get(assembly);
  const shapes: Shapes = await makeShapes(assembly, document, []);
  const engine = new Engine();
  try {
    await engine.call("fitting-open", { document, shapes });
    const rows = await engine.call<ComponentRow[]>("fitting-around", { id: component });
    const keys = [...new Set(rows.map((r) => r.shape))];
    const components = document.components as { id: string; name: string; part: string }[];
    const parts = document.parts as { id: string; values?: Record<string, string> }[];
    const own = components.find((c) => c.id === component);
    return {
      assembly: row.name,
      component: own?.name ?? "",
      sizes: Object.keys(parts.find((p) => p.id === own?.part)?.values ?? {}),
      bodies: rows.flatMap((r) => {
        const shape = shapeAt(shapes, r.path);
        const tone = r.colour ?? toneOf(keys.indexOf(r.shape));
        return shape?.mesh ? [{ id: r.id, shape, matrix: r.pose.matrix, tone }] : [];
      }),
    };
  } finally {
    engine.stop();
  }
}

export function useSurroundings(place: Place | null) {
  return useQuery({
    queryKey: ["around", place?.assembly, place?.component],
    queryFn: () => (place ? lookAround(place) : null),
    enabled: place !== null,
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
  });
}

function Ghost({ shape, matrix, tone }: Surroundings["bodies"][number]) {
  const body = useReleased(useMemo(() => bodyOf(shape), [shape]));
  const lines = useReleased(useMemo(() => linesOf(shape), [shape]));
  const at = useMemo(() => new THREE.Matrix4().fromArray(matrix), [matrix]);
  return (
    <group matrixAutoUpdate={false} matrix={at}>
      <mesh geometry={body} raycast={() => null} renderOrder={8}>
        <meshLambertMaterial
          color={tone}
          transparent
          opacity={0.18}
          depthWrite={false}
          side={THREE.DoubleSide}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={() => null} renderOrder={8}>
        <lineBasicMaterial color={ink} transparent opacity={0.35} />
      </lineSegments>
    </group>
  );
}

/** What stands around a part that is edited in its place: it is seen, and not picked. */
export function Around({ bodies }: { bodies: Surroundings["bodies"] }) {
  return bodies.map((b) => <Ghost key={b.id} {...b} />);
}
