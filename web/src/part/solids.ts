import * as THREE from "three";
import type { Mesh } from "../api/client";

// Deviations run from blue (inward) over paper to copper (outward).
const inward = new THREE.Color("#2f5f8f"),
  paper = new THREE.Color("#efe8d8"),
  outward = new THREE.Color("#b4501a");

/** The largest deviation, outward or inward. */
export const mostOf = (deviation: number[]) =>
  deviation.reduce((most, d) => Math.max(most, Math.abs(d)), 0);

/** The triangles on the faces that are asked for. */
export function solidOf(mesh: Mesh, wanted: (face: number) => boolean, deviation?: number[]) {
  const index: number[] = [];
  mesh.faces.forEach((face, i) => {
    if (!wanted(face)) return;
    index.push(...mesh.triangles.slice(3 * i, 3 * i + 3));
  });
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(mesh.vertices), 3));
  if (deviation) {
    const most = mostOf(deviation) || 1;
    const tint = new Float32Array(3 * deviation.length);
    deviation.forEach((d, i) =>
      paper
        .clone()
        .lerp(d > 0 ? outward : inward, Math.min(1, Math.abs(d) / most))
        .toArray(tint, 3 * i),
    );
    g.setAttribute("color", new THREE.BufferAttribute(tint, 3));
  }
  g.setIndex(index);
  g.computeVertexNormals();
  return g;
}

/** The edges of a solid. */
export function edgesOf(mesh: Mesh) {
  const points: number[] = [];
  for (const line of mesh.lines)
    for (let i = 0; i + 5 < line.length; i += 3) points.push(...line.slice(i, i + 6));
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(points), 3));
  return g;
}
