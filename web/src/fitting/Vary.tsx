import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { ask, client } from "../api/client";
import { Panel, Trouble, sentence } from "../controls/notices";
import { useAssemblyProgress } from "./assemblies";
import type { Fitting } from "./useFitting";

/** How the assembly bears other sizes: every driving size is varied over its interval. */
export function Vary({
  id,
  fitting,
  choose,
}: {
  id: number;
  fitting: Fitting;
  choose: (component: string) => void;
}) {
  const stop = useRef<AbortController | null>(null);
  const { frame } = fitting;
  const vary = useMutation({
    mutationFn: async () => {
      stop.current = new AbortController();
      const of = frame?.revision;
      const varied = await ask(
        client.POST("/assemblies/{id}/vary", {
          params: { path: { id } },
          body: { document: await fitting.state() },
          signal: stop.current.signal,
        }),
      );
      return { of, ...varied };
    },
  });
  const progress = useAssemblyProgress(id, vary.isPending);
  const title = (joint: string) => frame?.joints.find((j) => j.joint.id === joint)?.title ?? joint;
  const found = vary.data?.of === frame?.revision ? vary.data : undefined;
  const touchy = found?.repeats.filter((r) => r.touchy) ?? [];
  return (
    <Panel
      title="Other sizes"
      side={
        vary.isPending ? (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => {
              stop.current?.abort();
              vary.reset();
            }}
          >
            Stop it
          </button>
        ) : (
          <button
            type="button"
            className="btn btn-xs"
            disabled={!frame || frame.components.length === 0}
            onClick={() => vary.mutate()}
          >
            Vary the sizes
          </button>
        )
      }
    >
      {vary.isPending && (
        <p className="flex items-center gap-2 px-2 py-1" role="status">
          Varying <progress className="progress flex-1" value={progress?.done ?? 0} max={1} />
        </p>
      )}
      {vary.error && <Trouble error={vary.error} retry={() => vary.mutate()} />}
      {!found && !vary.isPending && !vary.error && (
        <p className="px-2 py-1">
          Finds at which sizes a joint breaks, something else moves, or a collision begins.
        </p>
      )}
      {found?.found.length === 0 && (
        <p className="px-2 py-1">
          {found.sizes.length === 0
            ? "Neither the assembly nor its parts have a size that could be changed."
            : `All ${found.sizes.length} sizes can be changed over their intervals.`}
        </p>
      )}
      <ul>
        {found?.found.map((f) => (
          <li key={f.size + f.from} className="px-2 py-1">
            <button
              type="button"
              className="text-left"
              onClick={() => {
                const first = f.of?.[0];
                if (first) choose(first);
              }}
            >
              <span className="font-semibold">
                {f.size} {f.from}
              </span>{" "}
              (now {f.now}): {sentence(f.what)}
            </button>
            <p className="text-xs opacity-80">{sentence(f.remedy)}</p>
          </li>
        ))}
        {touchy.map((r) => (
          <li key={r.joint} className="px-2 py-1">
            <span className="font-semibold">{title(r.joint)}</span> holds what{" "}
            {r.with.map(title).join(", ")} hold already, and contradicts them at another {r.by}.
            <p className="text-xs opacity-80">
              Loosen one of them, or tie the sizes by a formula of the assembly.
            </p>
          </li>
        ))}
      </ul>
    </Panel>
  );
}
