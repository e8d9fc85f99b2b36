import { useMemo } from "react";
import * as THREE from "three";
import { useReleased } from "../part/useReleased";
import { copper } from "./geometry";
import type { Picture } from "./useFitting";

const zAxis = new THREE.Vector3(0, 0, 1);

/** In which ways a component can still move: an arrow for a shift, a ring for a turn. */
export function Ways({ picture, size }: { picture: Picture; size: number }) {
  const ways = useMemo(
    () =>
      picture.components
        .filter((c) => c.freedom > 0 && c.freedom < 6)
        .flatMap((c) =>
          c.twists.map((t) => ({
            at: new THREE.Vector3(...t.at),
            turn: new THREE.Vector3(...t.turn),
            shift: new THREE.Vector3(...t.shift),
          })),
        ),
    [picture],
  );
  const arrows = useReleased(
    useMemo(() => {
      const points: THREE.Vector3[] = [];
      const line = (a: THREE.Vector3, b: THREE.Vector3) => points.push(a, b);
      const arrow = (from: THREE.Vector3, along: THREE.Vector3) => {
        const tip = from.clone().add(along);
        const side = new THREE.Vector3(along.y, -along.x, 0);
        if (side.lengthSq() < 1e-9) side.set(along.z, 0, -along.x);
        side.normalize().multiplyScalar(along.length() * 0.18);
        const back = tip.clone().addScaledVector(along, -0.3);
        line(from, tip);
        line(tip, back.clone().add(side));
        line(tip, back.clone().sub(side));
      };
      for (const w of ways) {
        if (w.shift.length() > 0.5) {
          const along = w.shift.clone().multiplyScalar(2 * size);
          arrow(w.at, along);
          arrow(w.at, along.clone().negate());
        }
        if (w.turn.length() > 0.5) {
          const upright = new THREE.Quaternion().setFromUnitVectors(zAxis, w.turn);
          const ring = new THREE.EllipseCurve(0, 0, size, size, 0, 5.2)
            .getPoints(40)
            .map((q) => new THREE.Vector3(q.x, q.y, 0).applyQuaternion(upright).add(w.at));
          ring.slice(1).forEach((q, k) => line(ring[k] ?? q, q));
          const [last, end] = ring.slice(-2);
          if (last && end) arrow(last, end.clone().sub(last).multiplyScalar(2.5));
        }
      }
      return new THREE.BufferGeometry().setFromPoints(points);
    }, [ways, size]),
  );
  return (
    <lineSegments geometry={arrows} raycast={() => null} renderOrder={7}>
      <lineBasicMaterial color={copper} depthTest={false} />
    </lineSegments>
  );
}
