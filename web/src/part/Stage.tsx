import { OrbitControls } from "@react-three/drei";
import { Canvas } from "@react-three/fiber";
import { type ReactNode, useCallback, useState } from "react";
import type * as THREE from "three";
import { cx } from "../app/cx";
import { Camera, directions } from "./Camera";
import { TurnKeys } from "./TurnKeys";

/**
 * Where solids are looked at: a bar above with how they are shown, and the space below in which
 * they are turned and fitted.
 */
export function Stage({
  what,
  sphere,
  bar,
  over,
  note,
  fitted,
  children,
}: {
  /** What is looked at, as the beginning of a sentence. */
  what: string;
  sphere: THREE.Sphere;
  /** What stands in the bar before the views. */
  bar: ReactNode;
  /** What lies over the space. */
  over?: ReactNode;
  note?: string | undefined;
  /** Called when it is fitted: what is to be seen then may be another ball. */
  fitted?: () => void;
  children: ReactNode;
}) {
  const [view, setView] = useState("Pictorial");
  const [turn, setTurn] = useState(0);
  const fit = useCallback(() => {
    setTurn((n) => n + 1);
    fitted?.();
  }, [fitted]);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div
        className={cx(
          "flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 px-3",
          "py-1.5 text-sm",
        )}
      >
        {bar}
        <label className="flex items-center gap-1">
          View
          <select
            className="select select-xs w-24"
            value={view}
            onChange={(e) => {
              setView(e.target.value);
              fit();
            }}
          >
            {Object.keys(directions).map((d) => (
              <option key={d}>{d}</option>
            ))}
          </select>
        </label>
        <button type="button" className="btn btn-xs" onClick={fit}>
          Fit
        </button>
      </div>
      <div
        className="relative min-h-0 flex-1 focus-visible:outline-dashed"
        data-part-view
        tabIndex={0}
        role="application"
        aria-label={
          `${what} in three dimensions; arrow keys turn it, ` +
          "plus and minus come nearer, Home fits it"
        }
      >
        <Canvas
          orthographic
          frameloop="demand"
          gl={{ localClippingEnabled: true, antialias: true, preserveDrawingBuffer: true }}
          camera={{ position: [1, -1, 1], up: [0, 0, 1] }}
        >
          <ambientLight intensity={1.1} />
          <directionalLight position={[2, -3, 4]} intensity={1.6} />
          <directionalLight position={[-3, 2, 1]} intensity={0.6} />
          {children}
          <OrbitControls makeDefault enableDamping={false} />
          <TurnKeys within="[data-part-view]" fit={fit} />
          <Camera sphere={sphere} view={view} turn={turn} />
        </Canvas>
        {over}
        {note && <p className="absolute bottom-1 left-2 text-xs opacity-80">{note}</p>}
      </div>
    </div>
  );
}

/** Whether something is shown, with its tone. */
export function Shows({
  words,
  tone,
  shown,
  set,
}: {
  words: string;
  tone: string;
  shown: boolean;
  set: (shown: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={shown}
        onChange={(e) => set(e.target.checked)}
      />
      <span
        className="inline-block size-3 border border-base-content"
        style={{ background: tone }}
      />
      {words}
    </label>
  );
}

/** A value that is set by a slider. */
export function Slider({
  words,
  value,
  set,
  least = 0,
  most = 100,
}: {
  words: string;
  value: number;
  set: (v: number) => void;
  least?: number;
  most?: number;
}) {
  return (
    <label className="flex items-center gap-1">
      {words}
      <input
        type="range"
        min={least}
        max={most}
        value={value}
        onChange={(e) => set(Number(e.target.value))}
        className="range range-xs w-20"
      />
    </label>
  );
}
