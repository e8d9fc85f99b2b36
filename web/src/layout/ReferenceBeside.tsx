import { Suspense, lazy } from "react";
import type { Mesh, Schemas } from "../api/client";
import { Loading } from "../controls/notices";
import type { Wiggling } from "../part/Wiggle";

const PartView = lazy(() => import("../part/PartView").then((m) => ({ default: m.PartView })));

/**
 * The reference beside its sheet: what is chosen is brought out, and faces are picked for a
 * dimension.
 */
export function ReferenceBeside({
  mesh,
  faces,
  pick,
  wiggle,
}: {
  mesh: Mesh | undefined;
  faces: Schemas["Ref"][];
  pick: (face: Schemas["Ref"]) => void;
  wiggle: Wiggling | null;
}) {
  return (
    <div className="sticky -top-2 z-10 h-72 shrink-0 border border-base-300 bg-base-100">
      {mesh ? (
        <Suspense fallback={<Loading what="the view" />}>
          <PartView
            shown={[{ key: "reference", label: "Reference", mesh, faces }]}
            pick={(_, face) => pick(face)}
            wiggle={wiggle}
            note="Click one face or two to dimension them"
          />
        </Suspense>
      ) : (
        <Loading what="the reference" />
      )}
    </div>
  );
}
