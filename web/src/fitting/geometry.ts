import * as THREE from "three";
import type { PartShape } from "./assemblies";

export const ink = "#3a2c18";
export const copper = "#b4501a";

// Components that lie side by side are told apart by tone, and by their lines.
const tones = ["#d6b98c", "#b9c3b0", "#c9a58f", "#a9b8c2", "#d9cfa6", "#bfa9b4"];

export const toneOf = (i: number) => tones[i % tones.length] ?? ink;

/** A part as a mesh. */
export function bodyOf(shape: PartShape) {
  const g = new THREE.BufferGeometry();
  g.setAttribute(
    "position",
    new THREE.BufferAttribute(new Float32Array(shape.mesh?.vertices ?? []), 3),
  );
  g.setIndex(shape.mesh?.triangles ?? []);
  g.computeVertexNormals();
  return g;
}

/** The edges of a part, or some of them. */
export function linesOf(shape: PartShape, wanted?: number[]) {
  const points: number[] = [];
  (shape.mesh?.lines ?? []).forEach((line, k) => {
    if (wanted && !wanted.includes(k)) return;
    for (let i = 0; i + 5 < line.length; i += 3) points.push(...line.slice(i, i + 6));
  });
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(points), 3));
  return g;
}

/** Some faces of a part. */
export function facesOf(shape: PartShape, faces: number[]) {
  const g = new THREE.BufferGeometry();
  const index: number[] = [];
  shape.mesh?.faces.forEach((f, i) => {
    if (faces.includes(f)) index.push(...(shape.mesh?.triangles.slice(3 * i, 3 * i + 3) ?? []));
  });
  g.setAttribute(
    "position",
    new THREE.BufferAttribute(new Float32Array(shape.mesh?.vertices ?? []), 3),
  );
  g.setIndex(index);
  g.computeVertexNormals();
  return g;
}
