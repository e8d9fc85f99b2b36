import { useEffect, useEffectEvent, useRef, useState } from "react";
import { Newest } from "../sketch/core/engine";
import type { View } from "./Views";
import type { Apart, Cut, Drag, Fitting, Frame, Plane, Pose } from "./useFitting";

const none: Cut[] = [];

/** The plane runs over all that is shown, which is more where it is drawn apart. */
function planeOf(view: View, frame: Frame | null, apart: Apart | null): Plane | null {
  const { cut } = view;
  if (!cut || !frame) return null;
  const normal: [number, number, number] = [0, 0, 0];
  // From the front and from above one looks at what is left.
  normal[cut.axis] = (cut.axis === 1 ? -1 : 1) * (cut.flipped ? -1 : 1);
  const at: [number, number, number] = [0, 0, 0];
  const [low, high] = [frame.low, frame.high].map((end, k) => {
    const wide = apart ? [apart.low, apart.high][k] : undefined;
    return end[cut.axis] + ((wide ?? end)[cut.axis] - end[cut.axis]) * view.apart;
  }) as [number, number];
  at[cut.axis] = low + (high - low) * cut.share;
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
  const [pulling, setPulling] = useState<{ of: number; component: string; by: Drag["to"] } | null>(
    null,
  );
  const drags = useRef(new Newest());
  const work = useEffectEvent(() => {
    if (pulled && drawn?.of !== revision)
      void fitting.apart().then((apart) => setDrawn({ of: revision, apart }));
  });
  useEffect(() => work(), [pulled, revision]);
  const apart = drawn?.of === revision ? drawn.apart : null;
  const plane = planeOf(view, frame, apart);
  const key = plane ? [...plane.at, ...plane.normal, view.apart].join(" ") : "";
  const cut = useEffectEvent(() => {
    if (plane) runner.current.run(async () => setCuts(await fitting.section(plane, view.apart)));
  });
  useEffect(() => cut(), [key, revision, poses]);
  const by = new Map(apart?.apart.map((a) => [a.component, a.by]));
  if (pulling?.of === revision) by.set(pulling.component, pulling.by);
  const draw = (d: Drag, done: boolean) => {
    if (done) void fitting.act({ do: "draw-apart", drag: d });
    else
      drags.current.run(async () =>
        setPulling({ of: revision, component: d.component, by: await fitting.dragged(d) }),
      );
  };
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
    set: apart?.set ?? false,
    draw,
    busy: pulled && !apart,
  };
}
