import { Panel } from "../controls/notices";
import type { Command, Frame, Motion } from "./useFitting";

/** Points whose paths are drawn, with how large each is once a joint was driven through. */
export function Traces({
  frame,
  act,
  motion,
}: {
  frame: Frame;
  act: (c: Command) => void;
  motion: Motion | null;
}) {
  if (frame.traces.length === 0) return null;
  return (
    <Panel title="Traced points">
      <ul>
        {frame.traces.map((t) => {
          const path = motion?.paths.find((p) => p.trace === t.trace.id);
          return (
            <li key={t.trace.id} className="flex items-start gap-1 px-2 py-0.5">
              <span className="min-w-0 flex-1">
                {t.title}
                <span className="block text-xs opacity-80">
                  {path ? `path of ${path.size}` : "open a joint and draw the paths"}
                </span>
              </span>
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                onClick={() => act({ do: "remove-trace", id: t.trace.id })}
              >
                Remove
              </button>
            </li>
          );
        })}
      </ul>
    </Panel>
  );
}
