import { Empty, sentence } from "../controls/notices";
import type { Finding, Frame } from "./core/types";
import { Symbol } from "./symbols";
import { cx } from "../app/cx";

/** Words for the kinds of findings. */
export const kindWords: Record<string, string> = {
  conflict: "Contradiction",
  folded: "Folded over",
  "open-end": "Open end",
  crossing: "Runs on",
  "left-over": "Left over",
  doubled: "Doubled",
  untied: "Not tied",
  loose: "Loose",
  yielding: "Gives",
  spare: "Spare",
  apart: "Not joined",
  "off-curve": "Not on it",
  slanted: "Direction",
  unsaid: "Not said",
  repeated: "Repeated size",
  "two-sided": "Symmetry",
  "plain-size": "Size",
  unnamed: "Parameter",
};

interface FindingsProps {
  frame: Frame;
  looking: boolean;
  picked: string | null;
  pick: (f: Finding | null) => void;
  repair: (f: Finding) => void;
  repairAll: (kind: string) => void;
}

/** What there is to say about the sketch, the most urgent first. */
export function Findings({ frame, looking, picked, pick, repair, repairAll }: FindingsProps) {
  if (frame.findings.length === 0)
    return (
      <Empty>
        {looking
          ? "Looking the sketch over …"
          : frame.curves.length === 0
            ? "Nothing is drawn yet. Pick a tool on the left, or press q and type " +
              "what you want to do."
            : "Nothing to put right: the sketch is held, closed and soundly made."}
      </Empty>
    );
  const many = new Map<string, number>();
  for (const f of frame.findings) if (f.repair) many.set(f.kind, (many.get(f.kind) ?? 0) + 1);
  const seen = new Set<string>();
  return (
    <ol className="divide-y divide-base-300 text-sm" aria-busy={looking}>
      {frame.findings.map((f) => {
        const first = !seen.has(f.kind);
        seen.add(f.kind);
        const n = many.get(f.kind) ?? 0;
        return (
          <li
            key={f.id}
            data-finding={f.kind}
            className={`px-3 py-2 ${picked === f.id ? "bg-base-200" : ""}`}
          >
            <button
              type="button"
              className="block w-full text-left"
              aria-pressed={picked === f.id}
              onClick={() => pick(picked === f.id ? null : f)}
            >
              <span className="font-semibold">{kindWords[f.kind] ?? f.kind}.</span>{" "}
              {sentence(f.what)}
            </button>
            <div className="mt-1 flex flex-wrap gap-1">
              {f.repair ? (
                <button
                  type="button"
                  className="btn btn-xs h-auto max-w-full shrink py-0.5 text-left whitespace-normal"
                  onClick={() => repair(f)}
                >
                  {sentence(f.repair).slice(0, -1)}
                </button>
              ) : (
                <span className="text-xs">To do: {f.remedy}.</span>
              )}
              {first && n > 2 && (
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  onClick={() => repairAll(f.kind)}
                >
                  All {n} of this kind
                </button>
              )}
            </div>
          </li>
        );
      })}
    </ol>
  );
}

/** Every constraint and size; those guessed while drawing are marked. */
export function Constraints({
  frame,
  chosen,
  choose,
  remove,
}: {
  frame: Frame;
  chosen: string[];
  choose: (ids: string[]) => void;
  remove: (id: string) => void;
}) {
  if (frame.constraints.length === 0)
    return (
      <Empty>
        No constraint yet. Choose something, and what can be put on it is offered below the drawing.
      </Empty>
    );
  const rows = [...frame.constraints].sort(
    (a, b) =>
      Number(b.bad ?? false) - Number(a.bad ?? false) ||
      Number(b.guessed ?? false) - Number(a.guessed ?? false),
  );
  return (
    <ul className="divide-y divide-base-300 text-sm">
      {rows.map((k) => (
        <li
          key={k.id}
          className={cx(
            "flex items-center gap-2 px-3 py-1",
            chosen.includes(k.id) && "bg-base-300",
          )}
        >
          <Symbol kind={k.kind} />
          <button
            type="button"
            className="min-w-0 flex-1 text-left break-words"
            title={k.of.join(", ")}
            aria-pressed={chosen.includes(k.id)}
            onClick={() => choose(chosen.includes(k.id) ? [] : [k.id])}
          >
            {sentence(k.words).slice(0, -1)}
            {k.guessed && <em className="opacity-80"> guessed</em>}
            {k.spare && <strong> spare</strong>}
            {k.bad && <strong> contradicts</strong>}
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-label={`Remove ${k.words}`}
            onClick={() => remove(k.id)}
          >
            Remove
          </button>
        </li>
      ))}
    </ul>
  );
}
