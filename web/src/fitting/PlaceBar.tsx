import type { UseQueryResult } from "@tanstack/react-query";
import { Trouble } from "../controls/notices";
import type { Surroundings } from "./Around";
import type { Place } from "./inPlace";

/** Says where a part is edited, and leads back there. */
export function PlaceBar({
  place,
  around,
  settle,
  go,
}: {
  place: Place;
  around: UseQueryResult<Surroundings | null>;
  /** Saves what is not saved yet, and tells whether it could. */
  settle: () => Promise<boolean>;
  go: (to: string) => void;
}) {
  const there = around.data;
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 bg-base-300 px-3 py-1 text-sm">
      <button
        type="button"
        className="btn btn-primary btn-xs"
        onClick={() => void settle().then((saved) => saved && go(`/assemblies/${place.assembly}`))}
      >
        Back to the assembly
      </button>
      {around.error ? (
        <Trouble error={around.error} retry={() => void around.refetch()} />
      ) : !there ? (
        <span role="status">
          <span className="loading loading-ring loading-xs" /> Looking what stands around it …
        </span>
      ) : (
        <span role="status">
          {`You edit ${there.component} in its place in ${there.assembly}: `}
          the part and the assembly are saved together.
          {there.sizes.length > 0 &&
            ` The assembly sets ${there.sizes.join(", ")}; here the sizes are those of the model.`}
        </span>
      )}
    </div>
  );
}
