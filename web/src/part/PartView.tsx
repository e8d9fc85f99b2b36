import type { ThreeEvent } from "@react-three/fiber";
import { useMemo, useState } from "react";
import * as THREE from "three";
import type { Mesh, Schemas } from "../api/client";
import { Shows, Slider, Stage } from "./Stage";
import { edgesOf, mostOf, solidOf } from "./solids";
import { Wiggle, type Wiggling } from "./Wiggle";
import { useReleased } from "./useReleased";
import { cx } from "../app/cx";

type Ref = Schemas["Ref"];

/** The address of a face of a mesh. */
const faceOf = (number: number): Ref => `face:${number}`;

/** One solid to show, with the faces to bring out. */
export interface Shown {
  key: "reference" | "attempt" | "tooMuch" | "missing";
  label: string;
  mesh: Mesh;
  faces: Ref[];
  /** How far each vertex lies outside the other solid, in mm. */
  deviation?: number[];
}

const tones: Record<Shown["key"], string> = {
  reference: "#7f97a8",
  attempt: "#d6b98c",
  tooMuch: "#b4501a",
  missing: "#2f5f8f",
};

/** The scale of the deviation picture: what the tones stand for. */
function Scale({ most }: { most: number }) {
  const text = most.toLocaleString("en", { maximumSignificantDigits: 3 });
  return (
    <div
      className={cx(
        "absolute right-2 bottom-2 flex flex-col items-stretch gap-0.5",
        "bg-base-100/85 px-2 py-1 text-xs",
      )}
      role="img"
      aria-label={`Deviation from ${text} mm inward to ${text} mm outward`}
    >
      <span className="font-semibold">Deviation, mm</span>
      <div className="flex gap-1.5">
        <div
          className="h-24 w-3 border border-base-content"
          style={{ background: "linear-gradient(#b4501a, #efe8d8, #2f5f8f)" }}
        />
        <div className="flex flex-col justify-between">
          <span>+{text} outward</span>
          <span>0</span>
          <span>−{text} inward</span>
        </div>
      </div>
    </div>
  );
}

/** The faces that are asked for, one for each of their triangles. */
const facesOf = (mesh: Mesh, wanted: (face: number) => boolean) => mesh.faces.filter(wanted);

type Pick = (key: Shown["key"], face: Ref) => void;

function Body({
  shown,
  opacity,
  clip,
  choose,
}: {
  shown: Shown;
  opacity: number;
  clip: THREE.Plane[];
  choose?: Pick;
}) {
  const { mesh, faces } = shown;
  const pick = useMemo(() => new Set(faces), [faces]);
  const plain = useReleased(
    useMemo(
      () => solidOf(mesh, (f) => !pick.has(faceOf(f)), shown.deviation),
      [mesh, pick, shown.deviation],
    ),
  );
  const picked = useReleased(
    useMemo(() => solidOf(mesh, (f) => pick.has(faceOf(f))), [mesh, pick]),
  );
  const edges = useReleased(useMemo(() => edgesOf(mesh), [mesh]));
  const click = (wanted: (face: number) => boolean) => (e: ThreeEvent<MouseEvent>) => {
    // A drag that ends here, or a point that is cut away, picks nothing.
    if (!choose || e.delta > 4 || clip.some((p) => p.distanceToPoint(e.point) < 0)) return;
    e.stopPropagation();
    const face = facesOf(mesh, wanted)[e.faceIndex ?? -1];
    if (face !== undefined) choose(shown.key, faceOf(face));
  };
  const tone = shown.deviation ? "#ffffff" : tones[shown.key];
  return (
    <group>
      <mesh
        geometry={plain}
        renderOrder={opacity < 1 ? 2 : 1}
        onClick={click((f) => !pick.has(faceOf(f)))}
      >
        <meshStandardMaterial
          key={shown.deviation ? "tinted" : "plain"}
          vertexColors={!!shown.deviation}
          color={tone}
          roughness={0.75}
          metalness={0.05}
          transparent={opacity < 1}
          opacity={opacity}
          depthWrite={opacity >= 1}
          side={THREE.DoubleSide}
          clippingPlanes={clip}
          polygonOffset
          polygonOffsetFactor={shown.key === "reference" ? 2 : 1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <mesh geometry={picked} onClick={click((f) => pick.has(faceOf(f)))}>
        <meshStandardMaterial
          color="#b4501a"
          emissive="#5a2407"
          roughness={0.6}
          side={THREE.DoubleSide}
          clippingPlanes={clip}
        />
      </mesh>
      <lineSegments geometry={edges}>
        <lineBasicMaterial
          color={shown.key === "reference" ? "#2d4a5e" : "#3a2c18"}
          transparent
          opacity={Math.max(0.35, opacity)}
          clippingPlanes={clip}
        />
      </lineSegments>
    </group>
  );
}

function boundsOf(list: Mesh[]) {
  const box = new THREE.Box3();
  for (const mesh of list) box.union(new THREE.Box3().setFromArray(mesh.vertices));
  if (box.isEmpty()) box.set(new THREE.Vector3(-1, -1, -1), new THREE.Vector3(1, 1, 1));
  return box;
}

/**
 * Solids laid over one another: each can be hidden or made transparent, cut by a plane, turned and
 * fitted.
 */
export function PartView({
  shown,
  note,
  pick,
  wiggle,
}: {
  shown: Shown[];
  note?: string;
  pick?: Pick;
  /** Faces of the first solid that are shown to be loose. */
  wiggle?: Wiggling | null;
}) {
  const [hidden, setHidden] = useState<Record<string, boolean>>({});
  const [clear, setClear] = useState(shown.length > 1 ? 55 : 100);
  const [cutAxis, setCutAxis] = useState<"none" | "x" | "y" | "z">("none");
  const [cutAt, setCutAt] = useState(50);
  // The box depends on the meshes alone: picking a dimension must not move the camera.
  const [meshes, setMeshes] = useState(() => shown.map((s) => s.mesh));
  if (meshes.length !== shown.length || shown.some((s, i) => s.mesh !== meshes[i]))
    setMeshes(shown.map((s) => s.mesh));
  const box = useMemo(() => boundsOf(meshes), [meshes]);
  const sphere = useMemo(() => box.getBoundingSphere(new THREE.Sphere()), [box]);
  const clip = useMemo(() => {
    if (cutAxis === "none") return [];
    const k = { x: 0, y: 1, z: 2 }[cutAxis];
    const n = new THREE.Vector3().setComponent(k, cutAxis === "y" ? 1 : -1);
    const lo = box.min.getComponent(k);
    const at = lo + ((box.max.getComponent(k) - lo) * cutAt) / 100;
    return [new THREE.Plane(n, cutAxis === "y" ? -at : at)];
  }, [box, cutAxis, cutAt]);
  const bar = (
    <>
      {shown.map((s) => (
        <Shows
          key={s.key}
          words={s.label}
          tone={tones[s.key]}
          shown={!hidden[s.key]}
          set={(on) => setHidden({ ...hidden, [s.key]: !on })}
        />
      ))}
      {shown.some((s) => s.key === "reference") && shown.length > 1 && (
        <Slider words="Reference opacity" value={clear} set={setClear} least={5} />
      )}
      <label className="flex items-center gap-1">
        Cut
        <select
          className="select select-xs w-24"
          value={cutAxis}
          onChange={(e) => setCutAxis(e.target.value as typeof cutAxis)}
        >
          <option value="none">none</option>
          <option value="x">across X</option>
          <option value="y">across Y</option>
          <option value="z">across Z</option>
        </select>
      </label>
      {cutAxis !== "none" && (
        <input
          aria-label="Place of the cut"
          type="range"
          min={0}
          max={100}
          value={cutAt}
          onChange={(e) => setCutAt(Number(e.target.value))}
          className="range range-xs w-20"
        />
      )}
    </>
  );
  return (
    <Stage
      what="Part"
      sphere={sphere}
      bar={bar}
      note={note}
      over={shown.map(
        (s) => s.deviation && !hidden[s.key] && <Scale key={s.key} most={mostOf(s.deviation)} />,
      )}
    >
      {shown
        .filter((s) => !hidden[s.key])
        .map((s) => (
          <Body
            key={s.key}
            shown={s}
            opacity={s.key === "reference" && shown.length > 1 ? clear / 100 : 1}
            clip={clip}
            choose={pick}
          />
        ))}
      {wiggle && shown[0] && (
        <Wiggle mesh={shown[0].mesh} of={wiggle} most={0.08 * sphere.radius} />
      )}
    </Stage>
  );
}
