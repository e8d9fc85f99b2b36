import { useEffect, useEffectEvent, useRef, useState } from "react";
import { Newest } from "../sketch/core/engine";
import type { View } from "./Views";
import type { Apart, Cut, Fitting, Frame, Plane, Pose } from "./useFitting";

const none: Cut[] = [];

function planeOf(view: View, frame: Frame | null): Plane | null {
  const { cut } = view;
  if (!cut || !frame) return null;
  const normal: [number, number, number] = [0, 0, 0];
  // From the front and from above one looks at what is left.
  normal[cut.axis] = (cut.axis === 1 ? -1 : 1) * (cut.flipped ? -1 : 1);
  const at: [number, number, number] = [0, 0, 0];
  const low = frame.low[cut.axis];
  at[cut.axis] = low + (frame.high[cut.axis] - low) * cut.share;
  return { at, normal };
}

/** What the core says of how the assembly is looked at: where components go, what is cut. */
export function useLooked(fitting: Fitting, view: View) {
  const { frame, poses } = fitting;
  const [drawn, setDrawn] = useState<{ of: number; apart: Apart } | null>(null);
  const [cuts, setCuts] = useState(none);
  const runner = useRef(new Newest());
  const revision = frame?.revision ?? 0;
  const pulled = view.apart > 0;
  const draw = useEffectEvent(() => {
    if (pulled && drawn?.of !== revision)
      void fitting.apart().then((apart) => setDrawn({ of: revision, apart }));
  });
  useEffect(() => draw(), [pulled, revision]);
  const plane = planeOf(view, frame);
  const key = plane ? [...plane.at, ...plane.normal].join(" ") : "";
  const cut = useEffectEvent(() => {
    if (plane) runner.current.run(async () => setCuts(await fitting.section(plane)));
  });
  useEffect(() => cut(), [key, revision, poses]);
  const apart = drawn?.of === revision ? drawn.apart : null;
  const by = new Map(apart?.apart.map((a) => [a.component, a.by]));
  const shown: Pose[] =
    view.apart > 0
      ? poses.map((p) => {
          const d = by.get(p.component);
          if (!d) return p;
          const matrix: Pose["matrix"] = [...p.matrix];
          matrix[12] += d[0] * view.apart;
          matrix[13] += d[1] * view.apart;
          matrix[14] += d[2] * view.apart;
          return { ...p, matrix };
        })
      : poses;
  return {
    poses: shown,
    plane,
    cuts: plane ? cuts : none,
    forced: apart?.forced ?? [],
    busy: pulled && !apart,
  };
}
