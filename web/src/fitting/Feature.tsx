import { useMemo } from "react";
import * as THREE from "three";
import { useReleased } from "../part/useReleased";
import type { PartShape } from "./assemblies";
import { copper, facesOf, linesOf } from "./geometry";

/** A feature brought out: a face in copper, an edge as a thick line. */
export function Feature({
  shape,
  name,
  strong,
}: {
  shape: PartShape;
  name: string;
  strong: boolean;
}) {
  const f = shape.features.find((x) => x.name === name);
  const faces = useReleased(useMemo(() => facesOf(shape, f?.faces ?? []), [shape, f]));
  const lines = useReleased(useMemo(() => linesOf(shape, f?.lines ?? []), [shape, f]));
  const corner = useReleased(
    useMemo(
      () =>
        new THREE.BufferGeometry().setFromPoints(
          f?.form === "corner" ? [new THREE.Vector3().fromArray(f.at)] : [],
        ),
      [f],
    ),
  );
  return (
    <>
      <points geometry={corner} raycast={() => null} renderOrder={6}>
        <pointsMaterial color={copper} size={9} sizeAttenuation={false} depthTest={!strong} />
      </points>
      <mesh geometry={faces} raycast={() => null} renderOrder={3}>
        <meshStandardMaterial
          color={copper}
          transparent
          opacity={strong ? 0.9 : 0.45}
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={-1}
          polygonOffsetUnits={-1}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={() => null} renderOrder={6}>
        <lineBasicMaterial color={copper} depthTest={!strong} />
      </lineSegments>
    </>
  );
}
