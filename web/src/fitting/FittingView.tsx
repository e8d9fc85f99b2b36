import { OrbitControls } from "@react-three/drei";
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useEffectEvent, useMemo } from "react";
import * as THREE from "three";
import { TurnKeys } from "../part/TurnKeys";
import type { Shapes } from "./assemblies";
import { Bodies } from "./Bodies";
import { type Body, Shelf } from "./batch";
import { Feature } from "./Feature";
import { ink, toneOf } from "./geometry";
import { Hand, type Handling } from "./Hand";
import { Cuts, Paths } from "./Lines";
import type { Picked } from "./picking";
import type { Cut, Picture, Motion, Plane, Pose } from "./useFitting";
import { Ways } from "./Ways";

interface Props extends Handling {
  picture: Picture;
  poses: Pose[];
  shapes: Shapes;
  picked: Picked[];
  hover: Picked | null;
  chosen: string | null;
  faint: ReadonlySet<string>;
  fit: number;
  plane: Plane | null;
  cuts: Cut[];
  paths: Motion["paths"];
}

// What is hit is looked for on both sides of a face.
const both = new THREE.MeshBasicMaterial({ side: THREE.DoubleSide });

/** A component as it can be hit; it is drawn with all others. */
function hitOf(b: Body, shelf: Shelf) {
  const mesh = new THREE.Mesh(shelf.of(b.shape).body, both);
  mesh.matrixWorld.fromArray(b.matrix);
  mesh.userData.component = b.id;
  return mesh;
}

function Camera({ sphere, fit }: { sphere: THREE.Sphere; fit: number }) {
  const get = useThree((s) => s.get);
  const controls = useThree((s) => s.controls);
  const place = useEffectEvent(() => {
    const { camera, controls: c, invalidate, size } = get();
    camera.up.set(0, 0, 1);
    camera.position.copy(sphere.center);
    camera.position.addScaledVector(new THREE.Vector3(1, -1.3, 0.9).normalize(), 4 * sphere.radius);
    camera.near = sphere.radius * 0.01;
    camera.far = sphere.radius * 40;
    if (camera instanceof THREE.OrthographicCamera)
      camera.zoom = Math.min(size.width, size.height) / (2.15 * sphere.radius);
    camera.lookAt(sphere.center);
    camera.updateProjectionMatrix();
    const orbit = c as unknown as { target: THREE.Vector3; update: () => void } | null;
    orbit?.target.copy(sphere.center);
    orbit?.update();
    invalidate();
  });
  useEffect(() => place(), [controls, fit]);
  return null;
}

/** Draws anew whenever this is rendered: something in the picture has changed. */
function Redraw() {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate());
  return null;
}

/** The components in space, where features are picked and components are pulled. */
export function FittingView(p: Props) {
  const { picture, shapes, poses } = p;
  const shelf = useMemo(() => new Shelf(), []);
  useEffect(() => () => shelf.keepOnly(new Set()), [shelf]);
  const sphere = useMemo(() => {
    const box = new THREE.Box3();
    for (const c of picture.components) {
      const b = shapes[c.shape]?.box;
      if (b)
        box.union(
          new THREE.Box3(
            new THREE.Vector3().fromArray(b.Min),
            new THREE.Vector3().fromArray(b.Max),
          ).applyMatrix4(new THREE.Matrix4().fromArray(c.pose.matrix)),
        );
    }
    if (box.isEmpty()) box.set(new THREE.Vector3(-50, -50, -50), new THREE.Vector3(50, 50, 50));
    return box.getBoundingSphere(new THREE.Sphere());
  }, [picture, shapes]);
  const clip = useMemo(() => {
    if (!p.plane) return [];
    const normal = new THREE.Vector3(...p.plane.normal).negate();
    const at = new THREE.Vector3(...p.plane.at);
    return [new THREE.Plane().setFromNormalAndCoplanarPoint(normal, at)];
  }, [p.plane]);
  const bodies = useMemo(() => {
    const order = new Map(
      [...new Set(picture.components.map((c) => c.shape))].map((k, i) => [k, i]),
    );
    return picture.components.flatMap((c, i): Body[] => {
      const shape = shapes[c.shape];
      const pose = poses[i];
      if (!shape?.mesh || !pose || p.hidden.has(c.id)) return [];
      return [
        {
          id: c.id,
          key: c.shape,
          shape,
          matrix: pose.matrix,
          tone: c.colour ?? toneOf(order.get(c.shape) ?? 0),
          loose: c.freedom > 0,
          chosen: p.chosen === c.id,
          faint: p.faint.has(c.id),
        },
      ];
    });
  }, [picture, shapes, poses, p.hidden, p.chosen, p.faint]);
  const hits = useMemo(() => bodies.map((b) => hitOf(b, shelf)), [bodies, shelf]);
  const out = [...p.picked, ...(p.hover ? [p.hover] : [])];
  return (
    <div
      className="relative h-full min-h-0 focus-visible:outline-dashed"
      data-fitting-view
      tabIndex={0}
      role="application"
      aria-label={
        "Assembly in three dimensions; arrow keys turn it, plus and minus come nearer. " +
        "Press on a face or an edge to pick it, drag a component that is loose to pull it."
      }
    >
      <Canvas
        orthographic
        frameloop="demand"
        onCreated={({ gl }) => {
          gl.localClippingEnabled = true;
        }}
        gl={{ antialias: true, preserveDrawingBuffer: true }}
        camera={{ position: [1, -1, 1], up: [0, 0, 1] }}
      >
        <ambientLight intensity={1.1} />
        <directionalLight position={[2, -3, 4]} intensity={1.6} />
        <directionalLight position={[-3, 2, 1]} intensity={0.6} />
        <Bodies bodies={bodies} shelf={shelf} clip={clip} />
        {out.map((f, k) => {
          const b = bodies.find((x) => x.id === f.component);
          return (
            b && (
              <group
                key={k}
                matrixAutoUpdate={false}
                matrix={new THREE.Matrix4().fromArray(b.matrix)}
              >
                <Feature shape={b.shape} name={f.name} strong={f !== p.hover} />
              </group>
            )
          );
        })}
        {p.apart === 0 && <Ways picture={picture} size={0.12 * sphere.radius} />}
        <Cuts
          cuts={p.cuts.filter((c) => !p.hidden.has(c.component))}
          toneOf={(component) => bodies.find((x) => x.id === component)?.tone ?? ink}
        />
        {p.apart === 0 && <Paths paths={p.paths} />}
        <OrbitControls makeDefault enableDamping={false} />
        <TurnKeys within="[data-fitting-view]" />
        <Camera sphere={sphere} fit={p.fit} />
        <Hand {...p} bodies={hits} clip={clip} />
        <Redraw />
      </Canvas>
    </div>
  );
}
