import { useThree } from "@react-three/fiber";
import { useEffect, useEffectEvent, useMemo, useRef } from "react";
import * as THREE from "three";
import type { Shapes } from "./assemblies";
import { type Hit, type Picked, pickAt } from "./picking";
import type { Drag, Picture, Pose, Spot } from "./useFitting";

/** What becomes of what the hand does. */
export interface Handling {
  hidden: ReadonlySet<string>;
  /** How far it is drawn apart, from 0 to 1: then what is dragged is drawn, and not pulled. */
  apart: number;
  over: (hit: Picked | null) => void;
  pick: (hit: Picked | null) => void;
  take: (spot: Spot) => Promise<boolean>;
  pull: (at: Spot["at"]) => void;
  release: (keep: boolean) => void;
  draw: (drag: Drag, done: boolean) => void;
}

interface Props extends Handling {
  picture: Picture;
  poses: Pose[];
  shapes: Shapes;
  /** What can be hit, by component. */
  bodies: THREE.Mesh[];
  clip: THREE.Plane[];
}

/** What the hand does in the view: a press picks, a drag on what is loose pulls it. */
export function Hand(p: Props) {
  const { gl, camera, size, get } = useThree();
  const parts = useMemo(
    () => new Map(p.picture.components.map((c) => [c.id, c.shape])),
    [p.picture.components],
  );
  const held = useRef<{ hit: Hit; x: number; y: number; pulling: boolean; plane: THREE.Plane }>(
    null,
  );
  const find = (e: PointerEvent) => {
    const box = gl.domElement.getBoundingClientRect();
    const poses = p.poses.filter((q) => !p.hidden.has(q.component));
    return pickAt(e.clientX - box.left, e.clientY - box.top, {
      camera,
      size,
      bodies: p.bodies,
      poses,
      parts,
      shapes: p.shapes,
      clip: p.clip,
    });
  };
  const place = (e: PointerEvent, plane: THREE.Plane) => {
    const box = gl.domElement.getBoundingClientRect();
    const ray = new THREE.Raycaster();
    ray.setFromCamera(
      new THREE.Vector2(
        ((e.clientX - box.left) / size.width) * 2 - 1,
        1 - ((e.clientY - box.top) / size.height) * 2,
      ),
      camera,
    );
    return ray.ray.intersectPlane(plane, new THREE.Vector3());
  };
  const turning = (on: boolean) => {
    const controls = get().controls as unknown as { enabled: boolean } | null;
    if (controls) controls.enabled = on;
  };
  const follows = (h: Hit) =>
    p.apart > 0 || (p.picture.components.find((c) => c.id === h.component)?.freedom ?? 0) > 0;
  const drawn = (h: Hit, to: THREE.Vector3): Drag => ({
    component: h.component,
    from: h.at.toArray(),
    to: to.toArray(),
    share: p.apart,
  });
  const plain = (h: Hit | null): Picked | null =>
    h?.name ? { component: h.component, name: h.name, words: h.words } : null;
  const down = useEffectEvent((e: PointerEvent) => {
    if (e.button !== 0) return;
    const hit = find(e);
    if (!hit) {
      held.current = null;
      return;
    }
    const normal = camera.getWorldDirection(new THREE.Vector3());
    held.current = {
      hit,
      x: e.clientX,
      y: e.clientY,
      pulling: false,
      plane: new THREE.Plane().setFromNormalAndCoplanarPoint(normal, hit.at),
    };
    if (follows(hit)) turning(false);
  });
  const move = useEffectEvent((e: PointerEvent) => {
    const h = held.current;
    if (!h) {
      if (e.buttons === 0) p.over(plain(find(e)));
      return;
    }
    if (!h.pulling && Math.hypot(e.clientX - h.x, e.clientY - h.y) > 4) {
      if (!follows(h.hit)) {
        held.current = null;
        return;
      }
      h.pulling = true;
      if (p.apart === 0) void p.take({ component: h.hit.component, at: h.hit.at.toArray() });
    }
    const at = h.pulling ? place(e, h.plane) : null;
    if (!at) return;
    if (p.apart > 0) p.draw(drawn(h.hit, at), false);
    else p.pull(at.toArray());
  });
  const up = useEffectEvent((e: PointerEvent) => {
    turning(true);
    const h = held.current;
    held.current = null;
    if (h?.pulling) {
      const at = place(e, h.plane);
      if (p.apart === 0) p.release(true);
      else if (at) p.draw(drawn(h.hit, at), true);
    } else if (h && Math.hypot(e.clientX - h.x, e.clientY - h.y) <= 4) p.pick(plain(h.hit));
  });
  useEffect(() => {
    const dom = gl.domElement;
    const d = (e: PointerEvent) => down(e);
    const m = (e: PointerEvent) => move(e);
    const u = (e: PointerEvent) => up(e);
    dom.addEventListener("pointerdown", d, { capture: true });
    window.addEventListener("pointermove", m);
    window.addEventListener("pointerup", u);
    return () => {
      dom.removeEventListener("pointerdown", d, { capture: true });
      window.removeEventListener("pointermove", m);
      window.removeEventListener("pointerup", u);
    };
  }, [gl]);
  return null;
}
