import { OrbitControls } from "@react-three/drei";
import { Canvas, useThree } from "@react-three/fiber";
import { type RefObject, useEffect, useEffectEvent, useMemo, useRef } from "react";
import * as THREE from "three";
import { TurnKeys } from "../part/TurnKeys";
import { useReleased } from "../part/useReleased";
import type { PartShape, Shapes } from "./assemblies";
import { type Hit, pickAt } from "./picking";
import { Cuts, Paths } from "./Lines";
import type { Cut, Frame, Motion, Plane, Pose, Spot } from "./useFitting";

export interface Picked {
  component: string;
  name: string;
  words: string;
}

interface Props {
  frame: Frame;
  poses: Pose[];
  shapes: Shapes;
  picked: Picked[];
  hover: Picked | null;
  chosen: string | null;
  hidden: ReadonlySet<string>;
  faint: ReadonlySet<string>;
  fit: number;
  /** Nothing is pulled: the components are not shown where they are. */
  still: boolean;
  plane: Plane | null;
  cuts: Cut[];
  paths: Motion["paths"];
  over: (hit: Picked | null) => void;
  pick: (hit: Picked | null) => void;
  take: (spot: Spot) => Promise<boolean>;
  pull: (at: Spot["at"]) => void;
  release: (keep: boolean) => void;
}

// Components that lie side by side are told apart by tone, and by their lines.
const tones = ["#d6b98c", "#b9c3b0", "#c9a58f", "#a9b8c2", "#d9cfa6", "#bfa9b4"];
const ink = "#3a2c18";
const copper = "#b4501a";

const zAxis = new THREE.Vector3(0, 0, 1);

const toneOf = (i: number) => tones[i % tones.length] ?? ink;

function bodyOf(shape: PartShape) {
  const g = new THREE.BufferGeometry();
  g.setAttribute(
    "position",
    new THREE.BufferAttribute(new Float32Array(shape.mesh?.vertices ?? []), 3),
  );
  g.setIndex(shape.mesh?.triangles ?? []);
  g.computeVertexNormals();
  return g;
}

function linesOf(shape: PartShape, wanted?: number[]) {
  const points: number[] = [];
  (shape.mesh?.lines ?? []).forEach((line, k) => {
    if (wanted && !wanted.includes(k)) return;
    for (let i = 0; i + 5 < line.length; i += 3) points.push(...line.slice(i, i + 6));
  });
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(points), 3));
  return g;
}

function facesOf(shape: PartShape, faces: number[]) {
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

/** A feature brought out: a face in copper, an edge as a thick line. */
function Feature({ shape, name, strong }: { shape: PartShape; name: string; strong: boolean }) {
  const f = shape.features.find((x) => x.name === name);
  const faces = useReleased(useMemo(() => facesOf(shape, f?.faces ?? []), [shape, f]));
  const lines = useReleased(useMemo(() => linesOf(shape, f?.lines ?? []), [shape, f]));
  const corner = useReleased(
    useMemo(
      () =>
        new THREE.BufferGeometry().setFromPoints(
          f?.form === "corner" ? [new THREE.Vector3().fromArray(f.at)] : [],
        ),
      [f],
    ),
  );
  return (
    <>
      <points geometry={corner} raycast={() => null} renderOrder={6}>
        <pointsMaterial color={copper} size={9} sizeAttenuation={false} depthTest={!strong} />
      </points>
      <mesh geometry={faces} raycast={() => null} renderOrder={3}>
        <meshStandardMaterial
          color={copper}
          transparent
          opacity={strong ? 0.9 : 0.45}
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={-1}
          polygonOffsetUnits={-1}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={() => null} renderOrder={6}>
        <lineBasicMaterial color={copper} depthTest={!strong} />
      </lineSegments>
    </>
  );
}

/** One component where it stands. What can move has a halo of soft lines. */
function Component({
  shape,
  pose,
  tone,
  loose,
  chosen,
  faint,
  clip,
  bodies,
}: {
  shape: PartShape;
  pose: Pose;
  tone: string;
  loose: boolean;
  chosen: boolean;
  faint: boolean;
  clip: THREE.Plane[];
  bodies: RefObject<Map<string, THREE.Mesh>>;
}) {
  const body = useReleased(useMemo(() => bodyOf(shape), [shape]));
  const lines = useReleased(useMemo(() => linesOf(shape), [shape]));
  const { component } = pose;
  const keep = (m: THREE.Mesh | null) => {
    if (!m) return;
    const all = bodies.current;
    m.userData.component = component;
    all.set(component, m);
    return () => void all.delete(component);
  };
  return (
    <>
      <mesh ref={keep} geometry={body}>
        <meshStandardMaterial
          color={tone}
          transparent={faint}
          opacity={faint ? 0.25 : 1}
          depthWrite={!faint}
          clippingPlanes={clip}
          roughness={0.75}
          metalness={0.05}
          emissive={chosen ? copper : "#000000"}
          emissiveIntensity={chosen ? 0.25 : 0}
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={() => null} renderOrder={4}>
        <lineBasicMaterial
          color={loose ? copper : ink}
          clippingPlanes={clip}
          transparent
          opacity={loose ? 0.75 : 1}
        />
      </lineSegments>
    </>
  );
}

/** In which ways a component can still move: an arrow for a shift, a ring for a turn. */
function Ways({ frame, size }: { frame: Frame; size: number }) {
  const ways = useMemo(
    () =>
      frame.components
        .filter((c) => c.freedom > 0 && c.freedom < 6)
        .flatMap((c) =>
          c.twists.map((t) => ({
            at: new THREE.Vector3(...t.at),
            turn: new THREE.Vector3(...t.turn),
            shift: new THREE.Vector3(...t.shift),
          })),
        ),
    [frame],
  );
  const arrows = useReleased(
    useMemo(() => {
      const points: THREE.Vector3[] = [];
      const line = (a: THREE.Vector3, b: THREE.Vector3) => points.push(a, b);
      const arrow = (from: THREE.Vector3, along: THREE.Vector3) => {
        const tip = from.clone().add(along);
        const side = new THREE.Vector3(along.y, -along.x, 0);
        if (side.lengthSq() < 1e-9) side.set(along.z, 0, -along.x);
        side.normalize().multiplyScalar(along.length() * 0.18);
        const back = tip.clone().addScaledVector(along, -0.3);
        line(from, tip);
        line(tip, back.clone().add(side));
        line(tip, back.clone().sub(side));
      };
      for (const w of ways) {
        if (w.shift.length() > 0.5) {
          const along = w.shift.clone().multiplyScalar(2 * size);
          arrow(w.at, along);
          arrow(w.at, along.clone().negate());
        }
        if (w.turn.length() > 0.5) {
          const upright = new THREE.Quaternion().setFromUnitVectors(zAxis, w.turn);
          const ring = new THREE.EllipseCurve(0, 0, size, size, 0, 5.2)
            .getPoints(40)
            .map((q) => new THREE.Vector3(q.x, q.y, 0).applyQuaternion(upright).add(w.at));
          ring.slice(1).forEach((q, k) => line(ring[k] ?? q, q));
          const [last, end] = ring.slice(-2);
          if (last && end) arrow(last, end.clone().sub(last).multiplyScalar(2.5));
        }
      }
      return new THREE.BufferGeometry().setFromPoints(points);
    }, [ways, size]),
  );
  return (
    <lineSegments geometry={arrows} raycast={() => null} renderOrder={7}>
      <lineBasicMaterial color={copper} depthTest={false} />
    </lineSegments>
  );
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

/** What the hand does in the view: a press picks, a drag on what is loose pulls it. */
function Hand({
  bodies,
  ...p
}: Props & { bodies: RefObject<Map<string, THREE.Mesh>>; clip: THREE.Plane[] }) {
  const { gl, camera, size, get } = useThree();
  const parts = useMemo(
    () => new Map(p.frame.components.map((c) => [c.id, c.shape])),
    [p.frame.components],
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
      bodies: bodies.current,
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
  const freedom = (h: Hit) =>
    p.still ? 0 : (p.frame.components.find((c) => c.id === h.component)?.freedom ?? 0);
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
    if (freedom(hit) > 0) turning(false);
  });
  const move = useEffectEvent((e: PointerEvent) => {
    const h = held.current;
    if (!h) {
      if (e.buttons === 0) p.over(plain(find(e)));
      return;
    }
    if (!h.pulling && Math.hypot(e.clientX - h.x, e.clientY - h.y) > 4) {
      if (freedom(h.hit) === 0) {
        held.current = null;
        return;
      }
      h.pulling = true;
      void p.take({ component: h.hit.component, at: h.hit.at.toArray() });
    }
    const at = h.pulling ? place(e, h.plane) : null;
    if (at) p.pull(at.toArray());
  });
  const up = useEffectEvent((e: PointerEvent) => {
    turning(true);
    const h = held.current;
    held.current = null;
    if (h?.pulling) p.release(true);
    else if (h && Math.hypot(e.clientX - h.x, e.clientY - h.y) <= 4) p.pick(plain(h.hit));
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

/** Draws anew whenever this is rendered: something in the picture has changed. */
function Redraw() {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate());
  return null;
}

/** The components in space, where features are picked and components are pulled. */
export function FittingView(p: Props) {
  const bodies = useRef(new Map<string, THREE.Mesh>());
  const { frame, shapes, poses } = p;
  const sphere = useMemo(() => {
    const box = new THREE.Box3();
    for (const c of frame.components) {
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
  }, [frame, shapes]);
  const clip = useMemo(() => {
    if (!p.plane) return [];
    const normal = new THREE.Vector3(...p.plane.normal).negate();
    const at = new THREE.Vector3(...p.plane.at);
    return [new THREE.Plane().setFromNormalAndCoplanarPoint(normal, at)];
  }, [p.plane]);
  const order = new Map(
    [...new Set(frame.components.map((c) => c.path.join()))].map((p, i) => [p, i]),
  );
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
        {frame.components.map((c, i) => {
          const shape = shapes[c.shape];
          const pose = poses[i];
          if (!shape || !pose || p.hidden.has(c.id)) return null;
          return (
            <group
              key={c.id}
              matrixAutoUpdate={false}
              matrix={new THREE.Matrix4().fromArray(pose.matrix)}
              matrixWorldNeedsUpdate
            >
              <Component
                shape={shape}
                pose={pose}
                tone={toneOf(order.get(c.path.join()) ?? 0)}
                loose={c.freedom > 0}
                chosen={p.chosen === c.id}
                faint={p.faint.has(c.id)}
                clip={clip}
                bodies={bodies}
              />
              {out
                .filter((f) => f.component === c.id)
                .map((f, k) => (
                  <Feature key={k} shape={shape} name={f.name} strong={f !== p.hover} />
                ))}
            </group>
          );
        })}
        {!p.still && <Ways frame={frame} size={0.12 * sphere.radius} />}
        <Cuts
          cuts={p.cuts.filter((c) => !p.hidden.has(c.component))}
          toneOf={(component) => {
            const part = frame.components.find((c) => c.id === component)?.path.join() ?? "";
            return toneOf(order.get(part) ?? 0);
          }}
        />
        {!p.still && <Paths paths={p.paths} />}
        <OrbitControls makeDefault enableDamping={false} />
        <TurnKeys within="[data-fitting-view]" />
        <Camera sphere={sphere} fit={p.fit} />
        <Hand {...p} bodies={bodies} clip={clip} />
        <Redraw />
      </Canvas>
    </div>
  );
}
