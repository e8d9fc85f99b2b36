import * as THREE from "three";
import type { PartShape, Shapes } from "./assemblies";
import type { Pose } from "./useFitting";

/** A feature of a component that is picked. */
export interface Picked {
  component: string;
  name: string;
  words: string;
}

/** A feature of a component under the pointer, and where it was hit. */
export interface Hit {
  component: string;
  /** The name of the feature, none where a face has no plain form. */
  name: string | null;
  words: string;
  at: THREE.Vector3;
}

interface Scene {
  camera: THREE.Camera;
  size: { width: number; height: number };
  bodies: THREE.Mesh[];
  poses: Pose[];
  parts: Map<string, string>;
  shapes: Shapes;
  /** What lies behind these planes was cut away. */
  clip: THREE.Plane[];
}

const reach = 7; // pixels within which an edge is hit
const near = 5; // and a corner, at which edges end

const featureOfFace = (shape: PartShape, face: number) =>
  shape.features.find((f) => f.faces?.includes(face));

/** What is under a place of the view, in pixels from its upper left corner. */
export function pickAt(x: number, y: number, s: Scene): Hit | null {
  const ray = new THREE.Raycaster();
  ray.setFromCamera(
    new THREE.Vector2((x / s.size.width) * 2 - 1, 1 - (y / s.size.height) * 2),
    s.camera,
  );
  const there = (p: THREE.Vector3) => s.clip.every((c) => c.distanceToPoint(p) >= 0);
  const hit = ray.intersectObjects(s.bodies, false).find((h) => there(h.point));
  const depth = (p: THREE.Vector3) => p.clone().applyMatrix4(s.camera.matrixWorldInverse).z;
  const front = hit ? depth(hit.point) : -Infinity;
  const visible = (p: THREE.Vector3) => there(p) && depth(p) >= front - 0.5;
  const thin = nearestCorner(x, y, s, visible) ?? nearestEdge(x, y, s, visible);
  if (thin) return thin;
  if (!hit) return null;
  const component = hit.object.userData.component as string;
  const shape = s.shapes[s.parts.get(component) ?? ""];
  const face = shape?.mesh?.faces[hit.faceIndex ?? -1];
  const f = shape && face !== undefined ? featureOfFace(shape, face) : undefined;
  return {
    component,
    name: f?.name ?? null,
    words: f?.words ?? "a face that nothing can be joined to",
    at: hit.point,
  };
}

/** Where a place is in the view, in pixels. */
function onScreen(p: THREE.Vector3, s: Scene) {
  const q = p.clone().project(s.camera);
  return [((q.x + 1) / 2) * s.size.width, ((1 - q.y) / 2) * s.size.height] as const;
}

/** The nearest visible corner within reach. */
function nearestCorner(
  x: number,
  y: number,
  s: Scene,
  visible: (p: THREE.Vector3) => boolean,
): Hit | null {
  let best: Hit | null = null;
  let least = near;
  for (const pose of s.poses) {
    const shape = s.shapes[s.parts.get(pose.component) ?? ""];
    const m = new THREE.Matrix4().fromArray(pose.matrix);
    for (const f of shape?.features ?? []) {
      if (f.form !== "corner") continue;
      const at = new THREE.Vector3().fromArray(f.at).applyMatrix4(m);
      const q = at.clone().project(s.camera);
      const d = Math.hypot(((q.x + 1) / 2) * s.size.width - x, ((1 - q.y) / 2) * s.size.height - y);
      if (d < least && visible(at)) {
        least = d;
        best = { component: pose.component, name: f.name, words: f.words, at };
      }
    }
  }
  return best;
}

/** The nearest visible edge within reach. */
function nearestEdge(
  x: number,
  y: number,
  s: Scene,
  visible: (p: THREE.Vector3) => boolean,
): Hit | null {
  let best: Hit | null = null;
  let least = reach;
  for (const pose of s.poses) {
    const shape = s.shapes[s.parts.get(pose.component) ?? ""];
    if (!shape?.mesh) continue;
    const m = new THREE.Matrix4().fromArray(pose.matrix);
    for (const f of shape.features)
      for (const line of f.lines ?? []) {
        const run = shape.mesh.lines[line] ?? [];
        let before: THREE.Vector3 | null = null;
        for (let i = 0; i + 2 < run.length; i += 3) {
          const p = new THREE.Vector3(run[i], run[i + 1], run[i + 2]).applyMatrix4(m);
          if (before) {
            const [ax, ay] = onScreen(before, s);
            const [bx, by] = onScreen(p, s);
            const l = (bx - ax) ** 2 + (by - ay) ** 2;
            const t = l > 0 ? ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / l : 0;
            const u = Math.min(1, Math.max(0, t));
            const d = Math.hypot(ax + u * (bx - ax) - x, ay + u * (by - ay) - y);
            const at = before.clone().lerp(p, u);
            if (d < least && visible(at)) {
              least = d;
              best = { component: pose.component, name: f.name, words: f.words, at };
            }
          }
          before = p;
        }
      }
  }
  return best;
}
