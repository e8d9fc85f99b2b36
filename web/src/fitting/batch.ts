import * as THREE from "three";
import type { PartShape } from "./assemblies";
import { bodyOf, copper, ink, linesOf } from "./geometry";
import type { Pose } from "./useFitting";

/** A component as it is drawn. */
export interface Body {
  id: string;
  /** The name of its shape: equal parts have one. */
  key: string;
  shape: PartShape;
  matrix: Pose["matrix"];
  tone: string;
  loose: boolean;
  chosen: boolean;
  faint: boolean;
}

interface Made {
  body: THREE.BufferGeometry;
  lines: THREE.BufferGeometry;
}

/**
 * The geometry of shapes, made once for each of them however many components have it. It is given
 * back when the last of them is gone.
 */
export class Shelf {
  private readonly made = new Map<PartShape, Made>();

  of(shape: PartShape): Made {
    let m = this.made.get(shape);
    if (!m) this.made.set(shape, (m = { body: bodyOf(shape), lines: linesOf(shape) }));
    return m;
  }

  keepOnly(shapes: ReadonlySet<PartShape>) {
    for (const [shape, m] of this.made) {
      if (shapes.has(shape)) continue;
      m.body.dispose();
      m.lines.dispose();
      this.made.delete(shape);
    }
  }
}

const soft = 0.75; // how strong the lines of what is loose are
export const glow = 0.25; // how much a chosen one takes on of copper

/** What is drawn in one go with one material, which is cut along planes. */
abstract class Drawing<M extends THREE.Material> {
  constructor(protected readonly material: M) {}

  cut(clip: THREE.Plane[]) {
    this.material.clippingPlanes = clip;
    this.material.needsUpdate = true;
  }

  dispose() {
    this.material.dispose();
  }
}

/** The bodies of components as one drawing, in which each shape is once. */
export class Solids extends Drawing<THREE.MeshStandardMaterial> {
  readonly mesh: THREE.BatchedMesh;
  private readonly of = new Map<string, number>();

  constructor(bodies: Body[], shelf: Shelf) {
    super(
      new THREE.MeshStandardMaterial({
        roughness: 0.75,
        metalness: 0.05,
        side: THREE.DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      }),
    );
    const shapes = new Map(bodies.map((b) => [b.key, shelf.of(b.shape).body]));
    let points = 1;
    let corners = 1;
    for (const g of shapes.values()) {
      points += g.getAttribute("position").count;
      corners += g.index?.count ?? 0;
    }
    this.mesh = new THREE.BatchedMesh(bodies.length, points, corners, this.material);
    this.mesh.sortObjects = this.mesh.perObjectFrustumCulled = this.mesh.frustumCulled = false;
    this.mesh.raycast = () => undefined;
    for (const [key, g] of shapes) this.of.set(key, this.mesh.addGeometry(g));
    for (const b of bodies) this.mesh.addInstance(this.of.get(b.key) ?? 0);
  }

  /** Shows the bodies, which are as many and of the same shapes, as they are now. */
  show(bodies: Body[]) {
    const matrix = new THREE.Matrix4();
    const colour = new THREE.Color();
    bodies.forEach((b, i) => {
      this.mesh.setGeometryIdAt(i, this.of.get(b.key) ?? 0);
      this.mesh.setMatrixAt(i, matrix.fromArray(b.matrix));
      colour.set(b.tone);
      if (b.chosen) colour.lerp(new THREE.Color(copper), glow);
      this.mesh.setColorAt(i, colour);
    });
  }

  override dispose() {
    this.mesh.dispose();
    super.dispose();
  }
}

/** The edges of all components of one shape as one drawing. What can move has soft lines. */
export class Edges extends Drawing<THREE.LineBasicMaterial> {
  readonly lines: THREE.LineSegments;
  private readonly geometry = new THREE.InstancedBufferGeometry();

  constructor(bodies: Body[], shelf: Shelf) {
    super(new THREE.LineBasicMaterial({ vertexColors: true, transparent: true }));
    const [first] = bodies;
    if (first) {
      const points = shelf.of(first.shape).lines.getAttribute("position");
      this.geometry.setAttribute("position", points.clone());
    }
    const room = (n: number) =>
      new THREE.InstancedBufferAttribute(new Float32Array(n * bodies.length), n);
    this.geometry.setAttribute("instanceMatrix", room(16));
    this.geometry.setAttribute("color", room(4));
    // The places of the components are an attribute of the lines, as of instanced meshes.
    this.material.defines = { USE_INSTANCING: "" };
    this.lines = new THREE.LineSegments(this.geometry, this.material);
    this.lines.frustumCulled = false;
    this.lines.renderOrder = 4;
    this.lines.raycast = () => undefined;
  }

  /** Shows the edges of the bodies, which are as many as they were, as they are now. */
  show(bodies: Body[]) {
    const places = this.geometry.getAttribute("instanceMatrix");
    const colours = this.geometry.getAttribute("color");
    const colour = new THREE.Color();
    bodies.forEach((b, i) => {
      (places.array as Float32Array).set(b.matrix, 16 * i);
      colour.set(b.loose ? copper : ink);
      colours.setXYZW(i, colour.r, colour.g, colour.b, b.loose ? soft : 1);
    });
    places.needsUpdate = colours.needsUpdate = true;
  }

  override dispose() {
    this.geometry.dispose();
    super.dispose();
  }
}
