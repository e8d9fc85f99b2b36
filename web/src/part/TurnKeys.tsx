import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";

interface Orbit {
  getAzimuthalAngle: () => number;
  setAzimuthalAngle: (v: number) => void;
  getPolarAngle: () => number;
  setPolarAngle: (v: number) => void;
  target: THREE.Vector3;
  update: () => void;
}

/**
 * Arrow keys turn the part, plus and minus come nearer, while the view that holds the canvas has
 * the focus.
 */
export function TurnKeys({ within, fit }: { within: string; fit?: () => void }) {
  const { gl, controls, camera, invalidate } = useThree();
  useEffect(() => {
    const host = gl.domElement.closest(within);
    const c = controls as unknown as Orbit | null;
    if (!host || !c) return;
    const press = (ev: Event) => {
      const e = ev as KeyboardEvent;
      if (e.target !== host || e.ctrlKey || e.metaKey) return;
      const zoom = (f: number) => {
        if (camera instanceof THREE.OrthographicCamera) camera.zoom *= f;
        else camera.position.sub(c.target).divideScalar(f).add(c.target);
        camera.updateProjectionMatrix();
      };
      const moves: Record<string, () => void> = {
        ArrowLeft: () => c.setAzimuthalAngle(c.getAzimuthalAngle() - 0.2),
        ArrowRight: () => c.setAzimuthalAngle(c.getAzimuthalAngle() + 0.2),
        ArrowUp: () => c.setPolarAngle(c.getPolarAngle() - 0.2),
        ArrowDown: () => c.setPolarAngle(c.getPolarAngle() + 0.2),
        "+": () => zoom(1.2),
        "=": () => zoom(1.2),
        "-": () => zoom(1 / 1.2),
        ...(fit ? { Home: fit } : {}),
      };
      const act = moves[e.key];
      if (!act) return;
      e.preventDefault();
      e.stopPropagation();
      act();
      c.update();
      invalidate();
    };
    host.addEventListener("keydown", press);
    return () => host.removeEventListener("keydown", press);
  }, [gl, controls, camera, invalidate, within, fit]);
  return null;
}
