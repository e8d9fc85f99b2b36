import { useEffect, useLayoutEffect, useState } from "react";
import * as THREE from "three";
import { type Body, Edges, type Shelf, Solids, glow } from "./batch";
import { copper } from "./geometry";

interface Drawn {
  bodies: Body[];
  shelf: Shelf;
  clip: THREE.Plane[];
}

/** Components that are solid. It is made anew, by its key, where others are shown. */
function Solid({ bodies, shelf, clip }: Drawn) {
  const [solids] = useState(() => new Solids(bodies, shelf));
  useLayoutEffect(() => solids.show(bodies), [solids, bodies]);
  useLayoutEffect(() => solids.cut(clip), [solids, clip]);
  useEffect(() => () => solids.dispose(), [solids]);
  return <primitive object={solids.mesh} />;
}

/** The edges of components of one shape. It is made anew, by its key, where more are shown. */
function Lines({ bodies, shelf, clip }: Drawn) {
  const [edges] = useState(() => new Edges(bodies, shelf));
  useLayoutEffect(() => edges.show(bodies), [edges, bodies]);
  useLayoutEffect(() => edges.cut(clip), [edges, clip]);
  useEffect(() => () => edges.dispose(), [edges]);
  return <primitive object={edges.lines} />;
}

/** One component that is seen through. */
function Faint({ body, shelf, clip }: { body: Body; shelf: Shelf; clip: THREE.Plane[] }) {
  return (
    <group matrixAutoUpdate={false} matrix={new THREE.Matrix4().fromArray(body.matrix)}>
      <mesh geometry={shelf.of(body.shape).body} raycast={() => null}>
        <meshStandardMaterial
          color={body.tone}
          transparent
          opacity={0.25}
          depthWrite={false}
          clippingPlanes={clip}
          emissive={body.chosen ? copper : "#000000"}
          emissiveIntensity={body.chosen ? glow : 0}
          side={THREE.DoubleSide}
        />
      </mesh>
    </group>
  );
}

/**
 * The components where they stand: all bodies are one drawing, and the edges of each shape one
 * more, so that sixty components are drawn as quickly as their distinct parts.
 */
export function Bodies({ bodies, shelf, clip }: Drawn) {
  useEffect(() => shelf.keepOnly(new Set(bodies.map((b) => b.shape))), [shelf, bodies]);
  const solid = bodies.filter((b) => !b.faint);
  const keys = [...new Set(bodies.map((b) => b.key))];
  const kinds = [...new Set(solid.map((b) => b.key))].join("\n");
  return (
    <>
      {solid.length > 0 && (
        <Solid key={`${solid.length}\n${kinds}`} bodies={solid} shelf={shelf} clip={clip} />
      )}
      {bodies
        .filter((b) => b.faint)
        .map((b) => (
          <Faint key={b.id} body={b} shelf={shelf} clip={clip} />
        ))}
      {keys.map((k) => {
        const own = bodies.filter((b) => b.key === k);
        return <Lines key={`${own.length} ${k}`} bodies={own} shelf={shelf} clip={clip} />;
      })}
    </>
  );
}
