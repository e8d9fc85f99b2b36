import { useMemo } from "react";
import * as THREE from "three";
import { useReleased } from "../part/useReleased";
import type { Cut, Motion } from "./useFitting";

const ink = "#3a2c18";
const copper = "#b4501a";

function at(numbers: number[]) {
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(numbers), 3));
  return g;
}

function OneCut({ cut, tone }: { cut: Cut; tone: string }) {
  const fill = useReleased(useMemo(() => at(cut.fill), [cut]));
  const hatch = useReleased(useMemo(() => at(cut.hatch), [cut]));
  const outline = useReleased(useMemo(() => at(cut.outline), [cut]));
  return (
    <>
      <mesh geometry={fill} raycast={() => null} renderOrder={2}>
        <meshBasicMaterial
          color={tone}
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

/** What a plane cuts, each component filled and hatched its own way. */
export function Cuts({ cuts, toneOf }: { cuts: Cut[]; toneOf: (component: string) => string }) {
  return cuts.map((c) => <OneCut key={c.component} cut={c} tone={toneOf(c.component)} />);
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
