import { useThree } from "@react-three/fiber";
import { useEffect, useEffectEvent } from "react";
import * as THREE from "three";

// Directions to the viewer of the six principal views and the pictorial one.
export const directions: Record<string, [number, number, number]> = {
  Pictorial: [1, -1, 1],
  Front: [0, -1, 0],
  Back: [0, 1, 0],
  Top: [0, 0, 1],
  Below: [0, 0, -1],
  Right: [1, 0, 0],
  Left: [-1, 0, 0],
};

/** Looks at a ball from a direction; anew at every turn. */
export function Camera({
  sphere,
  view,
  turn,
}: {
  sphere: THREE.Sphere;
  view: string;
  turn: number;
}) {
  const { camera, controls, get, size } = useThree();
  const { width, height } = size;
  const place = useEffectEvent(() => {
    const { camera, controls, invalidate } = get();
    const d = new THREE.Vector3(...(directions[view] ?? [1, -1, 1])).normalize();
    camera.up.set(0, 0, 1);
    if (Math.abs(d.z) > 0.99) camera.up.set(0, d.z > 0 ? 1 : -1, 0);
    camera.position.copy(sphere.center).addScaledVector(d, sphere.radius * 4);
    camera.near = sphere.radius * 0.01;
    camera.far = sphere.radius * 20;
    if (camera instanceof THREE.OrthographicCamera)
      camera.zoom = Math.min(width, height) / (2.15 * sphere.radius);
    camera.lookAt(sphere.center);
    camera.updateProjectionMatrix();
    const c = controls as unknown as { target: THREE.Vector3; update: () => void } | null;
    c?.target.copy(sphere.center);
    c?.update();
    invalidate();
  });
  useEffect(() => place(), [camera, controls, width, height, sphere, view, turn]);
  return null;
}
