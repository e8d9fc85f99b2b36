import type { ThreeEvent } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import * as THREE from "three";
import type { Mesh, Schemas } from "../api/client";
import { Shows, Slider, Stage } from "../part/Stage";
import { edgesOf, solidOf } from "../part/solids";
import { useReleased } from "../part/useReleased";
import type { Scene } from "./scene";

type Motion = Schemas["BesideMotion"];

const copper = "#b4501a";
const tones = { attempt: "#d6b98c", reference: "#7f97a8" };
const inks = { attempt: "#3a2c18", reference: "#2d4a5e" };

/** The geometries of all meshes of a scene. */
function useGeometries(meshes: Mesh[]) {
  const made = useMemo(
    () => meshes.map((m) => ({ body: solidOf(m, () => true), edges: edgesOf(m) })),
    [meshes],
  );
  useEffect(
    () => () =>
      made.forEach((g) => {
        g.body.dispose();
        g.edges.dispose();
      }),
    [made],
  );
  return made;
}

interface Placed {
  key: string;
  item: string;
  of: "attempt" | "reference";
  mesh: number;
  at: THREE.Matrix4;
}

/** One component where it stands. */
function Solid({
  placed,
  geometry,
  opacity,
  lit,
  pick,
}: {
  placed: Placed;
  geometry: ReturnType<typeof useGeometries>[number] | undefined;
  opacity: number;
  lit: boolean;
  pick: (item: string) => void;
}) {
  if (!geometry) return null;
  const click = (e: ThreeEvent<MouseEvent>) => {
    if (e.delta > 4) return; // the end of a drag
    e.stopPropagation();
    pick(placed.item);
  };
  return (
    <group matrixAutoUpdate={false} matrix={placed.at}>
      <mesh geometry={geometry.body} renderOrder={opacity < 1 ? 2 : 1} onClick={click}>
        <meshStandardMaterial
          color={lit ? copper : tones[placed.of]}
          roughness={0.75}
          metalness={0.05}
          transparent={opacity < 1}
          opacity={opacity}
          depthWrite={opacity >= 1}
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={placed.of === "reference" ? 2 : 1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <lineSegments geometry={geometry.edges} raycast={() => null}>
        <lineBasicMaterial color={inks[placed.of]} transparent opacity={Math.max(0.35, opacity)} />
      </lineSegments>
    </group>
  );
}

/** What components in one another share, seen through everything. */
function Shared({ mesh }: { mesh: Mesh }) {
  const body = useReleased(useMemo(() => solidOf(mesh, () => true), [mesh]));
  return (
    <mesh geometry={body} renderOrder={6} raycast={() => null}>
      <meshStandardMaterial color={copper} emissive="#5a2407" depthTest={false} />
    </mesh>
  );
}

/** What a point traces. */
function Path({ points, tone }: { points: number[][]; tone: string }) {
  const line = useReleased(
    useMemo(() => {
      const g = new THREE.BufferGeometry();
      const list = points.slice(1).flatMap((p, i) => [...(points[i] ?? p), ...p]);
      g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(list), 3));
      return g;
    }, [points]),
  );
  return (
    <lineSegments geometry={line} renderOrder={7} raycast={() => null}>
      <lineBasicMaterial color={tone} depthTest={false} />
    </lineSegments>
  );
}

/** Where everything stands: as it is, or at a place of a drive; drawn apart by a share. */
function placedIn(scene: Scene, motion: Motion | undefined, step: number, apart: number): Placed[] {
  return scene.components.flatMap((c, i) =>
    (["attempt", "reference"] as const).flatMap((of) => {
      const stands = c[of];
      if (!stands) return [];
      const at = new THREE.Matrix4().fromArray(motion?.[of][step]?.[i] ?? stands.at);
      const [x = 0, y = 0, z = 0] = c.apart;
      at.premultiply(new THREE.Matrix4().makeTranslation(x * apart, y * apart, z * apart));
      return [{ key: `${of} ${i}`, item: c.item, of, mesh: stands.mesh, at }];
    }),
  );
}

/** The ball around a scene that is drawn apart by a share. */
function ballOf(scene: Scene, apart: number) {
  const box = new THREE.Box3();
  for (const p of placedIn(scene, undefined, 0, apart)) {
    const mesh = scene.meshes[p.mesh];
    if (!mesh) continue;
    box.union(new THREE.Box3().setFromArray(mesh.vertices).applyMatrix4(p.at));
  }
  if (box.isEmpty()) box.set(new THREE.Vector3(-1, -1, -1), new THREE.Vector3(1, 1, 1));
  return box.getBoundingSphere(new THREE.Sphere());
}

/**
 * An attempt at an assembly beside its reference: laid over one another part by part, drawn apart,
 * and driven together.
 */
export function Beside({
  scene,
  item,
  pick,
}: {
  scene: Scene;
  /** The item that is brought out. */
  item: string | null;
  pick: (item: string) => void;
}) {
  const [shown, setShown] = useState({ attempt: true, reference: true, shared: true });
  const [clear, setClear] = useState(25);
  const [apart, setApart] = useState(0);
  const [drive, setDrive] = useState("");
  const [step, setStep] = useState(0);
  const geometries = useGeometries(scene.meshes);
  // How far it was drawn apart when it was fitted: to draw it apart must not move the camera.
  const [fittedAt, setFittedAt] = useState(0);
  const sphere = useMemo(() => ballOf(scene, fittedAt / 100), [scene, fittedAt]);
  const motion = scene.motions.find((m) => m.joint === drive);
  const list = useMemo(
    () => placedIn(scene, motion, step, apart / 100),
    [scene, motion, step, apart],
  );
  const parts = [
    ["attempt", "Attempt", tones.attempt],
    ["reference", "Reference", tones.reference],
    ["shared", "Shared material", copper],
  ] as const;
  const bar = (
    <>
      {parts.map(
        ([key, words, tone]) =>
          (key !== "shared" || scene.shared.length > 0) && (
            <Shows
              key={key}
              words={words}
              tone={tone}
              shown={shown[key]}
              set={(on) => setShown({ ...shown, [key]: on })}
            />
          ),
      )}
      <Slider words="Reference opacity" value={clear} set={setClear} least={5} />
      <Slider words="Drawn apart" value={apart} set={setApart} />
      {scene.motions.length > 0 && (
        <label className="flex items-center gap-1">
          Drive
          <select
            className="select select-xs w-40"
            value={drive}
            onChange={(e) => {
              setDrive(e.target.value);
              setStep(0);
            }}
          >
            <option value="">as handed in</option>
            {scene.motions.map((m) => (
              <option key={m.joint} value={m.joint}>
                {m.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {motion && (
        <>
          <Slider words="Driven to" value={step} set={setStep} most={motion.values.length - 1} />
          <output className="w-14">
            {Math.round(motion.values[step] ?? 0)}
            {motion.turns ? "°" : " mm"}
          </output>
        </>
      )}
    </>
  );
  return (
    <Stage
      what="Assembly"
      sphere={sphere}
      bar={bar}
      fitted={() => setFittedAt(apart)}
      note="Drag to turn, wheel to zoom, click a component to see its item"
    >
      {list.map(
        (p) =>
          shown[p.of] && (
            <Solid
              key={p.key}
              placed={p}
              geometry={geometries[p.mesh]}
              opacity={p.of === "reference" && shown.attempt ? clear / 100 : 1}
              lit={item !== null && item === p.item && p.of === "attempt"}
              pick={pick}
            />
          ),
      )}
      {shown.shared &&
        !motion &&
        apart === 0 &&
        scene.shared.map((m, i) => <Shared key={i} mesh={m} />)}
      {apart === 0 &&
        scene.paths.map((p) => (
          <group key={p.name}>
            {shown.reference && <Path points={p.reference} tone={inks.reference} />}
            {shown.attempt && <Path points={p.attempt} tone={copper} />}
          </group>
        ))}
    </Stage>
  );
}
