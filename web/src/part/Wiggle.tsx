import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import * as THREE from "three";
import type { Mesh, Schemas } from "../api/client";
import { useReleased } from "./useReleased";

/** Faces that move to and fro, to show what could be otherwise. */
export interface Wiggling {
  faces: Schemas["Ref"][];
  motion: Schemas["SheetMotion"];
}

const turns = 4;
const seconds = 1.6; // for once to and fro

/** Where a share of a motion brings what was at rest. */
function moved(motion: Wiggling["motion"], share: number, grown: number) {
  const at = new THREE.Vector3(...motion.at);
  const turn = new THREE.Vector3(...motion.turn).multiplyScalar(share);
  const angle = turn.length();
  const out = new THREE.Matrix4().makeTranslation(
    at.clone().addScaledVector(new THREE.Vector3(...motion.shift), share),
  );
  if (angle > 0)
    out.multiply(new THREE.Matrix4().makeRotationAxis(turn.divideScalar(angle), angle));
  if (motion.radius !== 0) out.multiply(new THREE.Matrix4().makeScale(grown, grown, grown));
  return out.multiply(new THREE.Matrix4().makeTranslation(at.negate()));
}

/** Shows the faces over the part a few times to and fro, and leaves them where they are. */
export function Wiggle({ mesh, of, most }: { mesh: Mesh; of: Wiggling; most: number }) {
  const invalidate = useThree((s) => s.invalidate);
  const [matrix, setMatrix] = useState(() => new THREE.Matrix4());
  const geometry = useReleased(
    useMemo(() => {
      const wanted = new Set(of.faces);
      const g = new THREE.BufferGeometry();
      g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(mesh.vertices), 3));
      g.setIndex(
        mesh.faces.flatMap((f, i) =>
          wanted.has(`face:${f}`) ? mesh.triangles.slice(3 * i, 3 * i + 3) : [],
        ),
      );
      g.computeVertexNormals();
      return g;
    }, [mesh, of]),
  );
  useEffect(() => {
    const start = performance.now();
    let frame = 0;
    const next = (now: number) => {
      const t = (now - start) / 1000 / seconds;
      const share = t < turns ? Math.abs(((2 * t + 0.5) % 2) - 1) * 2 - 1 : 0;
      setMatrix(moved(of.motion, share * most, 1 + 0.15 * share));
      invalidate();
      if (t < turns) frame = requestAnimationFrame(next);
    };
    frame = requestAnimationFrame(next);
    return () => cancelAnimationFrame(frame);
  }, [of, most, invalidate]);
  return (
    <group matrixAutoUpdate={false} matrix={matrix}>
      <mesh geometry={geometry} renderOrder={5} raycast={() => null}>
        <meshBasicMaterial
          color="#b4501a"
          transparent
          opacity={0.45}
          depthTest={false}
          side={THREE.DoubleSide}
        />
      </mesh>
    </group>
  );
}
