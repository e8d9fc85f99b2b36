import * as THREE from "three";
import type { ModelDocument } from "../saving/saver";
import type { Shapes } from "./assemblies";
import type { Picture, Pose } from "./useFitting";

/** Of the document of an assembly, what is to be seen of it. */
interface Seen {
  parts: { id: string; colour?: string }[];
  components: {
    id: string;
    name: string;
    part: string;
    pose: { turn: [number, number, number, number]; shift: [number, number, number] };
  }[];
}

/**
 * An assembly as it stood when it was saved: it is seen before the core has worked out what can
 * move. One with parts that are assemblies comes with the core alone.
 */
export function glimpse(document: ModelDocument, shapes: Shapes): Picture | null {
  const { components, parts } = document as unknown as Seen;
  if (parts.some((p) => shapes[p.id]?.nest)) return null;
  const colours = new Map(parts.map((p) => [p.id, p.colour]));
  return {
    components: components.flatMap((c) => {
      if (!shapes[c.part]?.mesh) return [];
      const [w, x, y, z] = c.pose.turn;
      const matrix = new THREE.Matrix4()
        .makeRotationFromQuaternion(new THREE.Quaternion(x, y, z, w))
        .setPosition(...c.pose.shift)
        .toArray() as Pose["matrix"];
      const colour = colours.get(c.part);
      return {
        id: c.id,
        name: c.name,
        part: c.part,
        shape: c.part,
        ...(colour && { colour }),
        path: [c.part],
        of: c.id,
        in: "",
        nested: false,
        moving: false,
        pinned: true,
        freedom: 0,
        twists: [],
        pose: { component: c.id, matrix },
      };
    }),
  };
}
