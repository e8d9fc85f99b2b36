import { useEffect } from "react";
import type * as THREE from "three";

/**
 * A geometry that gives its buffers on the graphics card back when another takes its place or when
 * it is no longer shown: three.js frees none by itself, and highlighting a face makes a new one at
 * every move of the mouse.
 */
export function useReleased<G extends THREE.BufferGeometry>(geometry: G): G {
  useEffect(() => () => release(geometry), [geometry]);
  return geometry;
}

/** Marks a geometry that borrows its points from another, which outlives it. */
export function borrowed<G extends THREE.BufferGeometry>(geometry: G): G {
  geometry.userData.borrowed = true;
  return geometry;
}

function release(geometry: THREE.BufferGeometry) {
  // To dispose of borrowed points would take them from the geometry that still shows them.
  const points = geometry.userData.borrowed ? { ...geometry.attributes } : {};
  for (const name of Object.keys(points)) geometry.deleteAttribute(name);
  geometry.dispose();
  Object.assign(geometry.attributes, points);
}
