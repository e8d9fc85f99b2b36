import { Line, OrbitControls, OrthographicCamera, PerspectiveCamera } from "@react-three/drei";
import { Canvas, type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import {
  type RefObject,
  memo,
  useCallback,
  useEffect,
  useEffectEvent,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import * as THREE from "three";
import { Around, type Surroundings } from "../fitting/Around";
import { TurnKeys } from "../part/TurnKeys";
import { borrowed, useReleased } from "../part/useReleased";
import { GlassBox, directions } from "./GlassBox";
import { type PickKind, pickAt } from "./picking";
import type { Part } from "./types";

export type Shading = "shaded" | "hidden" | "clear";

export interface Cut {
  axis: 0 | 1 | 2;
  /** Place along the axis, as a share of the part's box. */
  at: number;
  flip: boolean;
}

export interface Look {
  shading: Shading;
  perspective: boolean;
  cut: Cut | null;
}

interface Props {
  part: Part | undefined;
  chosen: ReadonlySet<string>;
  hover: string | null;
  setHover: (key: string | null) => void;
  pick: (key: string | null, more: boolean) => void;
  allowed: ReadonlySet<PickKind>;
  sketches: ReadonlySet<string>;
  planes: boolean;
  look: Look;
  fit: { key: number; chosen: boolean };
  line?: [number[], number[]];
  pull?: (mm: number, done: boolean) => void;
  /** What stands around the part, where it is edited in its place. */
  around?: Surroundings["bodies"];
}

const ink = { paper: "#2b2118", lamp: "#ece3d0" };
const pen = { paper: "#b4501a", lamp: "#e39a5f" };
const body = { paper: "#d9c39a", lamp: "#a08a63" };
const ground = { paper: "#fffdf7", lamp: "#1b1f23" };

const vec = (v: number[]) => new THREE.Vector3(v[0], v[1], v[2]);

/** The theme of the page, followed as it changes. */
function useTheme(): "paper" | "lamp" {
  const read = () => (document.documentElement.dataset.theme === "lamp" ? "lamp" : "paper");
  const [theme, setTheme] = useState<"paper" | "lamp">(read);
  useEffect(() => {
    const o = new MutationObserver(() => setTheme(read()));
    o.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    return () => o.disconnect();
  }, []);
  return theme;
}

function faceGeometry(part: Part) {
  const g = new THREE.BufferGeometry();
  const mesh = part.mesh;
  if (!mesh) return g;
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(mesh.vertices), 3));
  g.setIndex(mesh.triangles.slice(0, 3 * mesh.faces.length));
  g.computeVertexNormals();
  return g;
}

/**
 * Some faces of a geometry: they borrow its points, so that lighting up a face of many costs
 * little.
 */
function someFaces(part: Part, all: THREE.BufferGeometry, wanted: (face: number) => boolean) {
  const g = borrowed(new THREE.BufferGeometry());
  const mesh = part.mesh;
  const { position, normal } = all.attributes;
  if (!mesh || !position || !normal) return g;
  g.setAttribute("position", position);
  g.setAttribute("normal", normal);
  const index: number[] = [];
  const asked = new Map<number, boolean>();
  mesh.faces.forEach((f, i) => {
    let is = asked.get(f);
    if (is === undefined) asked.set(f, (is = wanted(f)));
    if (is)
      index.push(
        mesh.triangles[3 * i] ?? 0,
        mesh.triangles[3 * i + 1] ?? 0,
        mesh.triangles[3 * i + 2] ?? 0,
      );
  });
  g.setIndex(index);
  return g;
}

function lineGeometry(runs: number[][]) {
  const points: number[] = [];
  for (const r of runs)
    for (let i = 0; i + 5 < r.length; i += 3)
      for (let k = 0; k < 6; k++) points.push(r[i + k] ?? 0);
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(new Float32Array(points), 3));
  return g;
}

/** The mesh edges of curved faces with the triangles on either side, for outlines. */
function folds(part: Part) {
  const mesh = part.mesh;
  if (!mesh) return [];
  // Points at one place, which faces have each for themselves, are one.
  const places = new Map<string, number>();
  const count = mesh.vertices.length / 3;
  const one = new Int32Array(count);
  for (let v = 0; v < count; v++) {
    const key = `${mesh.vertices[3 * v]},${mesh.vertices[3 * v + 1]},${mesh.vertices[3 * v + 2]}`;
    const known = places.get(key);
    if (known === undefined) places.set(key, v);
    one[v] = known ?? v;
  }
  const open = new Map<number, { a: number; b: number; t: number }>();
  const out: { a: number; b: number; s: number; t: number }[] = [];
  mesh.faces.forEach((f, t) => {
    if (part.faces[f]?.kind === "plane") return;
    for (let k = 0; k < 3; k++) {
      const a = mesh.triangles[3 * t + k] ?? 0;
      const b = mesh.triangles[3 * t + ((k + 1) % 3)] ?? 0;
      const [p, q] = [one[a] ?? 0, one[b] ?? 0];
      const key = Math.min(p, q) * count + Math.max(p, q);
      const other = open.get(key);
      if (other) out.push({ a, b, s: other.t, t });
      else open.set(key, { a, b, t });
    }
  });
  return out;
}

/**
 * Outlines of curved faces, where one side of a fold is turned to the viewer and the other away.
 */
function Outlines({
  part,
  theme,
  clip,
}: {
  part: Part;
  theme: "paper" | "lamp";
  clip: THREE.Plane[];
}) {
  const list = useMemo(() => folds(part), [part]);
  const normals = useMemo(() => {
    const mesh = part.mesh;
    if (!mesh) return [];
    const p = (v: number) => vec(mesh.vertices.slice(3 * v, 3 * v + 3));
    return mesh.faces.map((_, t) => {
      const [a, b, c] = [0, 1, 2].map((k) => p(mesh.triangles[3 * t + k] ?? 0)) as [
        THREE.Vector3,
        THREE.Vector3,
        THREE.Vector3,
      ];
      return { n: b.clone().sub(a).cross(c.clone().sub(a)), at: a };
    });
  }, [part]);
  const geometry = useReleased(useMemo(() => new THREE.BufferGeometry(), []));
  const last = useRef("");
  const invalidate = useThree((s) => s.invalidate);
  useFrame(({ camera }) => {
    const key = [...camera.position.toArray(), ...camera.quaternion.toArray()]
      .map((v) => v.toFixed(4))
      .join();
    if (key === last.current) return;
    last.current = key;
    const look = camera.getWorldDirection(new THREE.Vector3());
    const away = (t: number) => {
      const q = normals[t];
      if (!q) return false;
      return (
        (camera instanceof THREE.PerspectiveCamera ? q.at.clone().sub(camera.position) : look).dot(
          q.n,
        ) > 0
      );
    };
    const points: number[] = [];
    const v = part.mesh?.vertices ?? [];
    for (const e of list)
      if (away(e.s) !== away(e.t))
        points.push(...v.slice(3 * e.a, 3 * e.a + 3), ...v.slice(3 * e.b, 3 * e.b + 3));
    geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(points), 3));
    geometry.computeBoundingSphere();
  });
  // Before the next frame, so that one frame shows all of a changed part.
  useLayoutEffect(() => {
    last.current = "";
    invalidate();
  }, [part, invalidate]);
  return (
    <lineSegments geometry={geometry} raycast={() => null} renderOrder={4} frustumCulled={false}>
      <lineBasicMaterial color={ink[theme]} clippingPlanes={clip} />
    </lineSegments>
  );
}

function Run({
  run,
  color,
  width,
  dashed,
}: {
  run: number[];
  color: string;
  width: number;
  dashed?: boolean;
}) {
  const points = useMemo(() => {
    const out: [number, number, number][] = [];
    for (let i = 0; i + 2 < run.length; i += 3)
      out.push([run[i] ?? 0, run[i + 1] ?? 0, run[i + 2] ?? 0]);
    return out;
  }, [run]);
  return points.length > 1 ? (
    <Line
      points={points}
      color={color}
      lineWidth={width}
      dashed={dashed}
      dashSize={2}
      gapSize={1.5}
      raycast={() => null}
      renderOrder={5}
    />
  ) : null;
}

function Dots({ at, color, size }: { at: number[][]; color: string; size: number }) {
  const g = useReleased(useMemo(() => new THREE.BufferGeometry().setFromPoints(at.map(vec)), [at]));
  return (
    <points geometry={g} raycast={() => null} renderOrder={6}>
      <pointsMaterial color={color} size={size} sizeAttenuation={false} depthTest={false} />
    </points>
  );
}

/** The triangulated solids, their edges, and what is chosen on them. */
function Solids({
  part,
  chosen,
  hover,
  look,
  clip,
  theme,
  meshRef,
}: {
  part: Part;
  chosen: ReadonlySet<string>;
  hover: string | null;
  look: Look;
  clip: THREE.Plane[];
  theme: "paper" | "lamp";
  meshRef: RefObject<THREE.Mesh | null>;
}) {
  const all = useReleased(useMemo(() => faceGeometry(part), [part]));
  const lines = useReleased(
    useMemo(
      () => lineGeometry(part.edges.filter((e) => e.kind !== "smooth").map((e) => e.run)),
      [part],
    ),
  );
  const soft = useReleased(
    useMemo(
      () => lineGeometry(part.edges.filter((e) => e.kind === "smooth").map((e) => e.run)),
      [part],
    ),
  );
  const lit = useReleased(
    useMemo(
      () =>
        someFaces(
          part,
          all,
          (i) => chosen.has(`face:${i}`) || chosen.has(`solid:${part.faces[i]?.solid ?? ""}`),
        ),
      [part, all, chosen],
    ),
  );
  const over = useReleased(
    useMemo(
      () =>
        someFaces(
          part,
          all,
          (i) => hover === `face:${i}` || hover === `solid:${part.faces[i]?.solid ?? ""}`,
        ),
      [part, all, hover],
    ),
  );
  const edge = (key: string | null) =>
    key?.startsWith("edge:") ? part.edges[Number(key.slice(5))] : undefined;
  const flat = look.shading === "hidden";
  return (
    <group>
      <mesh ref={meshRef} geometry={all} renderOrder={1}>
        {flat ? (
          <meshBasicMaterial
            color={ground[theme]}
            toneMapped={false}
            side={THREE.DoubleSide}
            clippingPlanes={clip}
            polygonOffset
            polygonOffsetFactor={1}
            polygonOffsetUnits={1}
          />
        ) : (
          <meshLambertMaterial
            color={body[theme]}
            side={THREE.DoubleSide}
            transparent={look.shading === "clear"}
            opacity={look.shading === "clear" ? 0.35 : 1}
            depthWrite={look.shading !== "clear"}
            clippingPlanes={clip}
            polygonOffset
            polygonOffsetFactor={1}
            polygonOffsetUnits={1}
          />
        )}
      </mesh>
      <mesh geometry={lit} renderOrder={2} raycast={() => null}>
        <meshLambertMaterial
          color={pen[theme]}
          emissive={pen[theme]}
          emissiveIntensity={0.25}
          side={THREE.DoubleSide}
          clippingPlanes={clip}
        />
      </mesh>
      <mesh geometry={over} renderOrder={3} raycast={() => null}>
        <meshBasicMaterial
          color={pen[theme]}
          transparent
          opacity={0.35}
          depthWrite={false}
          side={THREE.DoubleSide}
          clippingPlanes={clip}
          polygonOffset
          polygonOffsetFactor={-1}
          polygonOffsetUnits={-1}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={() => null} renderOrder={4}>
        <lineBasicMaterial color={ink[theme]} clippingPlanes={clip} />
      </lineSegments>
      <Outlines part={part} theme={theme} clip={clip} />
      {!flat && (
        <lineSegments geometry={soft} raycast={() => null} renderOrder={4}>
          <lineBasicMaterial color={ink[theme]} transparent opacity={0.25} clippingPlanes={clip} />
        </lineSegments>
      )}
      {flat && (
        <lineSegments
          geometry={lines}
          raycast={() => null}
          renderOrder={4}
          onUpdate={(l) => l.computeLineDistances()}
        >
          <lineDashedMaterial
            color={ink[theme]}
            dashSize={2.2}
            gapSize={1.6}
            transparent
            opacity={0.55}
            depthFunc={THREE.GreaterDepth}
            depthWrite={false}
            clippingPlanes={clip}
          />
        </lineSegments>
      )}
      {[...chosen].map((k) => {
        const e = edge(k);
        return e && <Run key={k} run={e.run} color={pen[theme]} width={4.5} />;
      })}
      {edge(hover) && <Run run={edge(hover)?.run ?? []} color={pen[theme]} width={3} />}
      <Dots
        at={useMemo(
          () =>
            [...chosen, hover ?? ""]
              .filter((k) => k.startsWith("corner:"))
              .map((k) => part.corners[Number(k.slice(7))]?.at ?? [0, 0, 0]),
          [chosen, hover, part],
        )}
        color={pen[theme]}
        size={10}
      />
    </group>
  );
}

let hatching: THREE.CanvasTexture | undefined;
function hatch() {
  if (hatching) return hatching;
  const c = document.createElement("canvas");
  c.width = c.height = 16;
  const g = c.getContext("2d");
  if (g) {
    g.fillStyle = "#efe2c8";
    g.fillRect(0, 0, 16, 16);
    g.strokeStyle = "#8f4215";
    g.lineWidth = 1.6;
    for (const o of [-16, 0, 16]) {
      g.beginPath();
      g.moveTo(o, 16);
      g.lineTo(o + 16, 0);
      g.stroke();
    }
  }
  hatching = new THREE.CanvasTexture(c);
  hatching.wrapS = hatching.wrapT = THREE.RepeatWrapping;
  return hatching;
}

/** The cut face: where the plane runs inside the material, counted by the faces in front of it. */
function CutFace({
  part,
  plane,
  radius,
  center,
}: {
  part: Part;
  plane: THREE.Plane;
  radius: number;
  center: THREE.Vector3;
}) {
  const geometry = useReleased(useMemo(() => faceGeometry(part), [part]));
  const clip = useMemo(() => [plane], [plane]);
  const place = useMemo(() => {
    const at = plane.projectPoint(center, new THREE.Vector3());
    return {
      at,
      turn: new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), plane.normal),
    };
  }, [plane, center]);
  const map = useMemo(() => {
    const t = hatch().clone();
    t.repeat.set(40, 40);
    return t;
  }, []);
  useEffect(() => () => map.dispose(), [map]);
  const count = (side: THREE.Side, op: THREE.StencilOp) => (
    <meshBasicMaterial
      side={side}
      clippingPlanes={clip}
      depthWrite={false}
      depthTest={false}
      colorWrite={false}
      stencilWrite
      stencilFunc={THREE.AlwaysStencilFunc}
      stencilFail={op}
      stencilZFail={op}
      stencilZPass={op}
    />
  );
  return (
    <group>
      <mesh geometry={geometry} renderOrder={0} raycast={() => null}>
        {count(THREE.BackSide, THREE.IncrementWrapStencilOp)}
      </mesh>
      <mesh geometry={geometry} renderOrder={0} raycast={() => null}>
        {count(THREE.FrontSide, THREE.DecrementWrapStencilOp)}
      </mesh>
      <mesh
        position={place.at}
        quaternion={place.turn}
        renderOrder={0.5}
        raycast={() => null}
        onAfterRender={(r: THREE.WebGLRenderer) => r.clearStencil()}
      >
        <planeGeometry args={[radius * 3, radius * 3]} />
        <meshBasicMaterial
          map={map}
          toneMapped={false}
          side={THREE.DoubleSide}
          stencilWrite
          stencilRef={0}
          stencilFunc={THREE.NotEqualStencilFunc}
          stencilFail={THREE.ReplaceStencilOp}
          stencilZFail={THREE.ReplaceStencilOp}
          stencilZPass={THREE.ReplaceStencilOp}
        />
      </mesh>
    </group>
  );
}

type SketchPicture = Part["sketches"][number];

function frameMatrix(f: SketchPicture["frame"]) {
  return new THREE.Matrix4().makeBasis(vec(f.X), vec(f.Y), vec(f.Z)).setPosition(vec(f.O));
}

function Region({
  sketch,
  index,
  chosen,
  hover,
  theme,
  register,
}: {
  sketch: SketchPicture;
  index: number;
  chosen: boolean;
  hover: boolean;
  theme: "paper" | "lamp";
  register: (o: THREE.Object3D | null, key: string) => void;
}) {
  const key = `region:${sketch.step}.${index}`;
  const geometry = useReleased(
    useMemo(() => {
      const path = (run: number[]) =>
        Array.from(
          { length: run.length / 2 },
          (_, i) => new THREE.Vector2(run[2 * i], run[2 * i + 1]),
        );
      const [outer = [], ...holes] = sketch.regions[index]?.loops ?? [];
      const shape = new THREE.Shape(path(outer));
      shape.holes = holes.map((h) => new THREE.Path(path(h)));
      return new THREE.ShapeGeometry(shape).applyMatrix4(frameMatrix(sketch.frame));
    }, [sketch, index]),
  );
  return (
    <mesh geometry={geometry} userData={{ key }} ref={(o) => register(o, key)} renderOrder={3}>
      <meshBasicMaterial
        color={pen[theme]}
        transparent
        opacity={chosen ? 0.5 : hover ? 0.35 : 0.12}
        depthWrite={false}
        side={THREE.DoubleSide}
        polygonOffset
        polygonOffsetFactor={-2}
        polygonOffsetUnits={-2}
      />
    </mesh>
  );
}

function Sketches({
  part,
  shown,
  chosen,
  hover,
  theme,
  register,
}: {
  part: Part;
  shown: ReadonlySet<string>;
  chosen: ReadonlySet<string>;
  hover: string | null;
  theme: "paper" | "lamp";
  register: (o: THREE.Object3D | null, key: string) => void;
}) {
  const is = (k: string) => chosen.has(k) || hover === k;
  return (
    <group>
      {part.sketches
        .filter((s) => shown.has(s.step))
        .map((s) => (
          <group key={s.step}>
            {s.regions.map((_, i) => (
              <Region
                key={i}
                sketch={s}
                index={i}
                chosen={chosen.has(`region:${s.step}.${i}`)}
                hover={hover === `region:${s.step}.${i}`}
                theme={theme}
                register={register}
              />
            ))}
            {s.curves.map((c) => (
              <Run
                key={c.id}
                run={c.run}
                color={is(`curve:${s.step}.${c.id}`) ? pen[theme] : ink[theme]}
                width={is(`curve:${s.step}.${c.id}`) ? 4 : 1.6}
                dashed={c.guide}
              />
            ))}
            <Dots at={s.points.map((p) => p.at)} color={ink[theme]} size={5} />
            <Dots
              at={s.points.filter((p) => is(`spot:${s.step}.${p.id}`)).map((p) => p.at)}
              color={pen[theme]}
              size={11}
            />
          </group>
        ))}
    </group>
  );
}

function Planes({
  part,
  radius,
  center,
  chosen,
  hover,
  theme,
  register,
}: {
  part: Part | undefined;
  radius: number;
  center: THREE.Vector3;
  chosen: ReadonlySet<string>;
  hover: string | null;
  theme: "paper" | "lamp";
  register: (o: THREE.Object3D | null, key: string) => void;
}) {
  const list = useMemo(() => {
    const of = (key: string, f: SketchPicture["frame"]) => ({
      key,
      matrix: frameMatrix(f),
      n: vec(f.Z),
    });
    const out = [
      of("datum:XY", { O: [0, 0, 0], X: [1, 0, 0], Y: [0, 1, 0], Z: [0, 0, 1] }),
      of("datum:XZ", { O: [0, 0, 0], X: [1, 0, 0], Y: [0, 0, 1], Z: [0, -1, 0] }),
      of("datum:YZ", { O: [0, 0, 0], X: [0, 1, 0], Y: [0, 0, 1], Z: [1, 0, 0] }),
      ...(part?.planes ?? []).map((p) => of(`plane:${p.step}`, p.frame)),
    ];
    // Each is drawn around the foot of the part's middle on it.
    for (const p of out) {
      const o = new THREE.Vector3().setFromMatrixPosition(p.matrix);
      const foot = center.clone().addScaledVector(p.n, -center.clone().sub(o).dot(p.n));
      p.matrix.setPosition(foot);
    }
    return out;
  }, [part, center]);
  const size = radius * 1.7;
  const border = useMemo(() => {
    const h = size / 2;
    return [-h, -h, 0, h, -h, 0, h, h, 0, -h, h, 0, -h, -h, 0];
  }, [size]);
  return (
    <group>
      {list.map((p) => {
        const on = chosen.has(p.key) || hover === p.key;
        return (
          <group key={p.key} matrix={p.matrix} matrixAutoUpdate={false}>
            <mesh userData={{ key: p.key }} ref={(o) => register(o, p.key)} renderOrder={7}>
              <planeGeometry args={[size, size]} />
              <meshBasicMaterial
                color={pen[theme]}
                transparent
                opacity={on ? 0.28 : 0.06}
                depthWrite={false}
                side={THREE.DoubleSide}
              />
            </mesh>
            <Run
              run={border}
              color={on ? pen[theme] : ink[theme]}
              width={on ? 2.5 : 1}
              dashed={!on}
            />
          </group>
        );
      })}
    </group>
  );
}

/** An arrow with which the main size of a step is pulled. */
function Arrow({
  handle,
  radius,
  theme,
  pull,
}: {
  handle: NonNullable<Part["handle"]>;
  radius: number;
  theme: "paper" | "lamp";
  pull: (mm: number, done: boolean) => void;
}) {
  const { get, camera, gl } = useThree();
  const [over, setOver] = useState(false);
  const d = useMemo(() => vec(handle.along), [handle]);
  const o = useMemo(() => vec(handle.at), [handle]);
  const turn = useMemo(
    () => new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 1, 0), d),
    [d],
  );
  const begin = (e: ThreeEvent<PointerEvent>) => {
    e.stopPropagation();
    const controls = get().controls as unknown as { enabled: boolean } | null;
    if (controls) controls.enabled = false;
    const at = (ev: PointerEvent) => {
      const r = gl.domElement.getBoundingClientRect();
      const ray = new THREE.Raycaster();
      ray.setFromCamera(
        new THREE.Vector2(
          ((ev.clientX - r.left) / r.width) * 2 - 1,
          1 - ((ev.clientY - r.top) / r.height) * 2,
        ),
        camera,
      );
      const on = new THREE.Vector3();
      const far = radius * 40;
      ray.ray.distanceSqToSegment(
        o.clone().addScaledVector(d, -far),
        o.clone().addScaledVector(d, far),
        undefined,
        on,
      );
      return on.sub(o).dot(d);
    };
    const start = at(e.nativeEvent);
    const move = (ev: PointerEvent) => pull((at(ev) - start) * handle.scale, false);
    const up = (ev: PointerEvent) => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      if (controls) controls.enabled = true;
      pull((at(ev) - start) * handle.scale, true);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  };
  const s = radius * 0.09;
  return (
    <group position={o} quaternion={turn} renderOrder={8}>
      <mesh
        position={[0, s * 1.6, 0]}
        onPointerDown={begin}
        onPointerOver={() => setOver(true)}
        onPointerOut={() => setOver(false)}
        renderOrder={8}
      >
        <coneGeometry args={[s * 0.55, s * 1.6, 20]} />
        <meshBasicMaterial color={over ? ink[theme] : pen[theme]} depthTest={false} transparent />
      </mesh>
      <mesh position={[0, s * 0.4, 0]} renderOrder={8} raycast={() => null}>
        <cylinderGeometry args={[s * 0.14, s * 0.14, s * 0.8, 10]} />
        <meshBasicMaterial color={pen[theme]} depthTest={false} transparent />
      </mesh>
    </group>
  );
}

interface RigProps {
  sphere: { center: THREE.Vector3; radius: number };
  /**
   * What is fitted, asked when the camera is placed: it does not follow what is chosen meanwhile.
   */
  focus: () => { center: THREE.Vector3; radius: number };
  perspective: boolean;
  wish: { name: string; key: number };
  fitKey: number;
  /** Turns the glass box by a matrix of CSS. */
  turnBox: (matrix: string) => void;
}

/** Moves the camera: to a view, to fit, and the glass box along with it. */
function Rig({ sphere, focus, perspective, wish, fitKey, turnBox }: RigProps) {
  const { camera, controls, get, size } = useThree();
  const direction = useRef(new THREE.Vector3(1, -1, 1).normalize());
  const turned = useRef(-1);
  const place = useEffectEvent(() => {
    const { center, radius } = focus();
    const { camera, controls, invalidate } = get();
    // A view that is asked for, or the direction as it is, when only the fit or the camera changes.
    let d = direction.current.clone();
    if (turned.current !== wish.key) {
      turned.current = wish.key;
      d = vec(directions[wish.name] ?? [1, -1, 1]).normalize();
    }
    const up =
      Math.abs(d.z) > 0.99 ? new THREE.Vector3(0, d.z > 0 ? 1 : -1, 0) : new THREE.Vector3(0, 0, 1);
    camera.up.copy(up);
    camera.position.copy(center).addScaledVector(d, radius * 4.6);
    camera.near = sphere.radius * 0.02;
    camera.far = sphere.radius * 40;
    if (camera instanceof THREE.OrthographicCamera)
      camera.zoom = Math.min(size.width, size.height) / (2.15 * radius);
    camera.lookAt(center);
    camera.updateProjectionMatrix();
    const c = controls as unknown as { target: THREE.Vector3; update: () => void } | null;
    c?.target.copy(center);
    c?.update();
    invalidate();
  });
  const { width, height } = size;
  useEffect(
    () => place(),
    [wish, fitKey, perspective, camera, controls, width, height, sphere.radius],
  );
  useFrame(() => {
    const e = camera.matrixWorldInverse.elements;
    camera.getWorldDirection(direction.current).negate();
    // CSS has its y axis downwards: the second row turns its sign, and there is no shift.
    const css = e.map((v, i) => (i >= 12 ? 0 : i % 4 === 1 ? -v : v));
    css[15] = 1;
    turnBox(`matrix3d(${css.map((v) => v.toFixed(5)).join()})`);
  });
  return null;
}

/** Listens to the pointer and says what is under it. */
function Pointer({
  scene,
  setHover,
  pick,
}: {
  scene: () => Parameters<typeof pickAt>[2] | null;
  setHover: Props["setHover"];
  pick: Props["pick"];
}) {
  const { gl } = useThree();
  useEffect(() => {
    const e = gl.domElement;
    let down: { x: number; y: number } | null = null;
    let waiting = 0;
    const at = (ev: PointerEvent) => {
      const r = e.getBoundingClientRect();
      const s = scene();
      return s ? pickAt(ev.clientX - r.left, ev.clientY - r.top, s) : null;
    };
    const move = (ev: PointerEvent) => {
      if (ev.buttons !== 0) return;
      window.cancelAnimationFrame(waiting);
      waiting = window.requestAnimationFrame(() => setHover(at(ev)));
    };
    const press = (ev: PointerEvent) => (down = { x: ev.clientX, y: ev.clientY });
    const release = (ev: PointerEvent) => {
      if (down && ev.button === 0 && Math.hypot(ev.clientX - down.x, ev.clientY - down.y) < 4)
        pick(at(ev), ev.shiftKey);
      down = null;
    };
    const leave = () => {
      window.cancelAnimationFrame(waiting);
      setHover(null);
    };
    e.addEventListener("pointermove", move);
    e.addEventListener("pointerdown", press);
    e.addEventListener("pointerup", release);
    e.addEventListener("pointerleave", leave);
    return () => {
      window.cancelAnimationFrame(waiting);
      e.removeEventListener("pointermove", move);
      e.removeEventListener("pointerdown", press);
      e.removeEventListener("pointerup", release);
      e.removeEventListener("pointerleave", leave);
    };
  }, [gl, scene, setHover, pick]);
  return null;
}

function Inner(
  props: Props & { turnBox: (matrix: string) => void; wish: { name: string; key: number } },
) {
  const { part, chosen, hover, look, allowed, sketches, planes, fit, line, pull } = props;
  const theme = useTheme();
  const { camera, size } = useThree();
  const mesh = useRef<THREE.Mesh>(null);
  const extra = useRef(new Map<string, THREE.Object3D>());
  const register = useCallback((o: THREE.Object3D | null, key: string) => {
    if (o) extra.current.set(key, o);
    else extra.current.delete(key);
  }, []);
  const box = useMemo(() => {
    const b = new THREE.Box3();
    if (part?.box) b.set(vec(part.box.Min), vec(part.box.Max));
    // The sketches that are shown count when the part changes, and do not move the camera
    // by themselves.
    for (const s of part?.sketches ?? [])
      // eslint-disable-next-line react-hooks/memo-dependencies
      if (sketches.has(s.step) || !part?.box)
        for (const c of s.curves) b.union(new THREE.Box3().setFromArray(c.run));
    if (b.isEmpty()) b.set(new THREE.Vector3(-40, -40, -40), new THREE.Vector3(40, 40, 40));
    return b;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [part]);
  const sphere = useMemo(() => {
    const s = box.getBoundingSphere(new THREE.Sphere());
    return { center: s.center, radius: Math.max(s.radius, 1e-3) };
  }, [box]);
  const focus = () => {
    if (!fit.chosen || !part) return sphere;
    const b = new THREE.Box3();
    const mesh = part.mesh;
    for (const k of chosen) {
      const i = Number(k.split(":")[1]);
      if (k.startsWith("edge:")) b.union(new THREE.Box3().setFromArray(part.edges[i]?.run ?? []));
      if (k.startsWith("corner:")) b.expandByPoint(vec(part.corners[i]?.at ?? [0, 0, 0]));
      if (k.startsWith("face:") && mesh)
        mesh.faces.forEach((f, t) => {
          if (f === i)
            for (let q = 0; q < 3; q++) {
              const v = 3 * (mesh.triangles[3 * t + q] ?? 0);
              b.expandByPoint(vec(mesh.vertices.slice(v, v + 3)));
            }
        });
    }
    if (b.isEmpty()) return sphere;
    const s = b.getBoundingSphere(new THREE.Sphere());
    return { center: s.center, radius: Math.max(s.radius * 1.3, sphere.radius * 0.05) };
  };
  const clip = useMemo(() => {
    if (!look.cut) return [];
    const { axis, at, flip } = look.cut;
    const n = new THREE.Vector3().setComponent(axis, flip ? 1 : -1);
    const lo = box.min.getComponent(axis);
    const place = lo + (box.max.getComponent(axis) - lo) * at;
    return [new THREE.Plane(n, flip ? -place : place)];
  }, [box, look.cut]);
  const scene = useCallback(
    () =>
      part
        ? {
            part,
            body: mesh.current,
            camera,
            size,
            allowed,
            sketches,
            clip,
            extra: [...extra.current.values()],
            slack: sphere.radius * 0.004,
          }
        : null,
    [part, camera, size, allowed, sketches, clip, sphere.radius],
  );
  return (
    <>
      {look.perspective ? (
        <PerspectiveCamera makeDefault fov={30} />
      ) : (
        <OrthographicCamera makeDefault />
      )}
      <ambientLight intensity={1.15} />
      <directionalLight position={[2, -3, 4]} intensity={1.6} />
      <directionalLight position={[-3, 2, 1]} intensity={0.55} />
      {part && (
        <Solids
          part={part}
          chosen={chosen}
          hover={hover}
          look={look}
          clip={clip}
          theme={theme}
          meshRef={mesh}
        />
      )}
      {part && clip[0] && (
        <CutFace part={part} plane={clip[0]} radius={sphere.radius} center={sphere.center} />
      )}
      {part && (
        <Sketches
          part={part}
          shown={sketches}
          chosen={chosen}
          hover={hover}
          theme={theme}
          register={register}
        />
      )}
      {props.around && <Around bodies={props.around} />}
      {planes && (
        <Planes
          part={part}
          radius={sphere.radius}
          center={sphere.center}
          chosen={chosen}
          hover={hover}
          theme={theme}
          register={register}
        />
      )}
      {line && (
        <>
          <Run run={[...line[0], ...line[1]]} color={pen[theme]} width={2.5} />
          <Dots at={line} color={pen[theme]} size={8} />
        </>
      )}
      {part?.handle && pull && (
        <Arrow handle={part.handle} radius={sphere.radius} theme={theme} pull={pull} />
      )}
      <OrbitControls makeDefault enableDamping={false} />
      <Rig
        sphere={sphere}
        focus={focus}
        perspective={look.perspective}
        wish={props.wish}
        fitKey={fit.key}
        turnBox={props.turnBox}
      />
      <Pointer scene={scene} setHover={props.setHover} pick={props.pick} />
      <TurnKeys within="[data-view]" />
    </>
  );
}

/**
 * The part in three dimensions: what is under the pointer lights up before it is picked.
 * It is drawn again only where something of it changed, not with every change of the page.
 */
export const View = memo(function View(props: Props) {
  const cube = useRef<HTMLDivElement | null>(null);
  const turnBox = useCallback((matrix: string) => {
    if (cube.current) cube.current.style.transform = matrix;
  }, []);
  const [wish, setWish] = useState({ name: "Pictorial", key: 0 });
  const turn = useCallback((name: string) => setWish((w) => ({ name, key: w.key + 1 })), []);
  return (
    <div
      className="sheet-ground relative h-full min-h-0 focus-visible:outline-dashed"
      data-view
      tabIndex={0}
      role="application"
      aria-label="Part in three dimensions; arrow keys turn it, plus and minus come nearer"
    >
      <Canvas
        frameloop="demand"
        gl={{
          localClippingEnabled: true,
          antialias: true,
          preserveDrawingBuffer: true,
          stencil: true,
        }}
      >
        <Inner {...props} turnBox={turnBox} wish={wish} />
      </Canvas>
      <GlassBox
        turn={turn}
        cube={(e) => {
          cube.current = e;
        }}
      />
    </div>
  );
});
