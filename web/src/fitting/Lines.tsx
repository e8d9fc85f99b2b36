import { useMemo } from "react";
import * as THREE from "three";
import { useReleased } from "../part/useReleased";
import { copper, ink } from "./geometry";
import type { Cut, Motion } from "./useFitting";

function at(numbers: number[]) {
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(numbers), 3));
  return g;
}

/** What a plane cuts, each component filled and hatched its own way: all in three drawings. */
export function Cuts({ cuts, toneOf }: { cuts: Cut[]; toneOf: (component: string) => string }) {
  const tones = cuts.map((c) => toneOf(c.component)).join();
  const fill = useReleased(
    useMemo(() => {
      const g = at(cuts.flatMap((c) => c.fill));
      const colours = cuts.flatMap((c, i) => {
        const tone = new THREE.Color(tones.split(",")[i]).toArray();
        return Array.from({ length: c.fill.length / 3 }, () => tone).flat();
      });
      g.setAttribute("color", new THREE.BufferAttribute(new Float32Array(colours), 3));
      return g;
    }, [cuts, tones]),
  );
  const hatch = useReleased(useMemo(() => at(cuts.flatMap((c) => c.hatch)), [cuts]));
  const outline = useReleased(useMemo(() => at(cuts.flatMap((c) => c.outline)), [cuts]));
  return (
    <>
      <mesh geometry={fill} raycast={() => null} renderOrder={2}>
        <meshBasicMaterial
          vertexColors
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <lineSegments geometry={hatch} raycast={() => null} renderOrder={4}>
        <lineBasicMaterial color={ink} transparent opacity={0.6} />
      </lineSegments>
      <lineSegments geometry={outline} raycast={() => null} renderOrder={5}>
        <lineBasicMaterial color={ink} />
      </lineSegments>
    </>
  );
}

function OnePath({ points }: { points: Motion["paths"][number]["points"] }) {
  const line = useReleased(
    useMemo(() => at(points.slice(1).flatMap((p, i) => [...(points[i] ?? p), ...p])), [points]),
  );
  return (
    <lineSegments geometry={line} raycast={() => null} renderOrder={7}>
      <lineBasicMaterial color={copper} depthTest={false} />
    </lineSegments>
  );
}

/** The paths of traced points. */
export function Paths({ paths }: { paths: Motion["paths"] }) {
  return paths.map((p) => <OnePath key={p.trace} points={p.points} />);
}
