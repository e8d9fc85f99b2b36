import type { Progress } from "../api/client";
import { stateSentences } from "../app/format";

const stages = [
  "queued",
  "reading",
  "rebuilding",
  "measuring",
  "looking for causes",
  "laying it over the reference",
  "varying sizes",
  "marking",
];

/** The stages of a check with the one that is under way. */
export function ProgressLine({ progress }: { progress: Progress }) {
  const at = stages.indexOf(progress.stage);
  if (progress.state !== "queued" && progress.state !== "checking")
    return (
      <p role="status" className="text-sm">
        The attempt {stateSentences[progress.state]}.
      </p>
    );
  return (
    <div role="status" className="text-sm" data-stage={progress.stage}>
      <ol className="flex flex-wrap gap-x-3">
        {stages.map((s, i) => (
          <li
            key={s}
            className={
              i === at ? "font-semibold text-primary" : i < at ? "line-through" : "opacity-80"
            }
          >
            {s}
          </li>
        ))}
      </ol>
      <progress
        className="progress progress-primary mt-1 w-full"
        value={progress.stage === "queued" ? undefined : progress.done}
        max={1}
        aria-label={progress.stage}
      />
    </div>
  );
}
