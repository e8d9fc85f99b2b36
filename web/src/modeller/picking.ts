import * as THREE from "three";
import type { Part } from "./types";

/** What can be picked, by the first word of its key. */
export type PickKind = "face" | "edge" | "corner" | "spot" | "curve" | "region" | "plane" | "solid";

interface Scene {
  part: Part;
  body: THREE.Mesh | null;
  camera: THREE.Camera;
  size: { width: number; height: number };
  allowed: ReadonlySet<PickKind>;
  sketches: ReadonlySet<string>;
  clip: THREE.Plane[];
  extra: THREE.Object3D[];
  slack: number;
}

const reach = 7; // pixels within which a point or line is hit

/** Distance in pixels from a place to a run of points in space that is visible there. */
function toRun(
  run: number[],
  x: number,
  y: number,
  m: number[],
  s: Scene,
  visible: (p: THREE.Vector3) => boolean,
): number {
  const [
    m0 = 0,
    m1 = 0,
    ,
    m3 = 0,
    m4 = 0,
    m5 = 0,
    ,
    m7 = 0,
    m8 = 0,
    m9 = 0,
    ,
    m11 = 0,
    m12 = 0,
    m13 = 0,
    ,
    m15 = 1,
  ] = m;
  const halfW = s.size.width / 2;
  const halfH = s.size.height / 2;
  let px = 0;
  let py = 0;
  let best = Infinity;
  for (let i = 0; i + 2 < run.length; i += 3) {
    const [a = 0, b = 0, c = 0] = [run[i], run[i + 1], run[i + 2]];
    const w = m3 * a + m7 * b + m11 * c + m15;
    const qx = ((m0 * a + m4 * b + m8 * c + m12) / w + 1) * halfW;
    const qy = (1 - (m1 * a + m5 * b + m9 * c + m13) / w) * halfH;
    if (i > 0) {
      const dx = qx - px;
      const dy = qy - py;
      const l = dx * dx + dy * dy;
      const t = l > 0 ? Math.min(1, Math.max(0, ((x - px) * dx + (y - py) * dy) / l)) : 0;
      const d = Math.hypot(px + t * dx - x, py + t * dy - y);
      if (
        d < best &&
        d <= reach &&
        visible(
          new THREE.Vector3(run[i - 3], run[i - 2], run[i - 1]).lerp(new THREE.Vector3(a, b, c), t),
        )
      )
        best = d;
    }
    px = qx;
    py = qy;
  }
  return best;
}

/** The thing under a place of the view, in pixels from its upper left corner. */
export function pickAt(x: number, y: number, s: Scene): string | null {
  const ray = new THREE.Raycaster();
  ray.setFromCamera(
    new THREE.Vector2((x / s.size.width) * 2 - 1, 1 - (y / s.size.height) * 2),
    s.camera,
  );
  const kept = (p: THREE.Vector3) => s.clip.every((c) => c.distanceToPoint(p) >= -s.slack);
  const onScreen = new THREE.Matrix4().multiplyMatrices(
    s.camera.projectionMatrix,
    s.camera.matrixWorldInverse,
  ).elements;
  const hit = s.body ? ray.intersectObject(s.body, false).find((h) => kept(h.point)) : undefined;
  const depth = (p: THREE.Vector3) => p.clone().applyMatrix4(s.camera.matrixWorldInverse).z;
  const front = hit ? depth(hit.point) : -Infinity;
  const visible = (p: THREE.Vector3) => kept(p) && depth(p) >= front - s.slack;
  const at = (v: number[]) => new THREE.Vector3(v[0], v[1], v[2]);
  const far = (p: THREE.Vector3) => {
    const q = p.clone().project(s.camera);
    return Math.hypot(((q.x + 1) / 2) * s.size.width - x, ((1 - q.y) / 2) * s.size.height - y);
  };
  const nearest = <T>(list: T[], distance: (t: T) => number): T | undefined => {
    let best: T | undefined;
    let d = reach;
    for (const t of list) {
      const e = distance(t);
      if (e <= d) {
        best = t;
        d = e;
      }
    }
    return best;
  };
  if (s.allowed.has("corner")) {
    const i = nearest(
      s.part.corners.map((c, i) => ({ p: at(c.at), i, ref: c.ref })),
      (c) => (visible(c.p) ? far(c.p) : Infinity),
    );
    if (i) return `corner:${i.i}`;
  }
  const drawn = s.part.sketches.filter((k) => s.sketches.has(k.step));
  if (s.allowed.has("spot")) {
    const p = nearest(
      drawn.flatMap((k) => k.points.map((q) => ({ p: at(q.at), key: `spot:${k.step}.${q.id}` }))),
      (c) => far(c.p),
    );
    if (p) return p.key;
  }
  if (s.allowed.has("curve")) {
    const c = nearest(
      drawn.flatMap((k) => k.curves.map((q) => ({ run: q.run, key: `curve:${k.step}.${q.id}` }))),
      (q) => toRun(q.run, x, y, onScreen, s, () => true),
    );
    if (c) return c.key;
  }
  if (s.allowed.has("edge")) {
    const e = nearest(
      s.part.edges.map((q, i) => ({ q, i })),
      (c) => toRun(c.q.run, x, y, onScreen, s, visible),
    );
    if (e) return `edge:${e.i}`;
  }
  const others = ray
    .intersectObjects(s.extra, false)
    .filter((h) =>
      s.allowed.has(
        (h.object.userData.key as string).split(":")[0]?.replace("datum", "plane") as PickKind,
      ),
    );
  const region = others.find((h) => (h.object.userData.key as string).startsWith("region:"));
  if (region) return region.object.userData.key as string;
  if (hit && (s.allowed.has("face") || s.allowed.has("solid"))) {
    const face = s.part.mesh?.faces[hit.faceIndex ?? -1];
    if (face !== undefined)
      return s.allowed.has("face") ? `face:${face}` : `solid:${s.part.faces[face]?.solid ?? ""}`;
  }
  return (others[0]?.object.userData.key as string | undefined) ?? null;
}
