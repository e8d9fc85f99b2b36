import type { Schemas } from "../api/client";
import { points } from "../app/format";
import { Panel } from "../controls/notices";
import { Points } from "./Points";

type Rubric = Schemas["Rubric"];

const partsOf = {
  part: [
    ["characteristics", "Characteristics"],
    ["wholePart", "Whole part"],
    ["robustness", "Constraint robustness"],
    ["sketches", "Sketch health"],
    ["practice", "Good practice"],
  ],
  assembly: [
    ["parts", "Parts"],
    ["placement", "Placement"],
    ["joints", "Joints"],
    ["motion", "Motion"],
    ["whole", "The whole"],
    ["robustness", "Robustness"],
    ["practice", "Good practice"],
  ],
} as const;
const offs = [
  ["late", "For every day begun after the due date"],
  ["repeats", "For every attempt after the first"],
] as const;

/** The points of the parts of a rubric. */
export function PointFields({
  kind = "part",
  rubric,
  setRubric,
}: {
  /** Of the exercise. */
  kind?: keyof typeof partsOf;
  rubric: Rubric;
  setRubric: (r: Rubric) => void;
}) {
  const parts = partsOf[kind];
  const together = parts.reduce((s, [k]) => s + (rubric[k] ?? 0), 0);
  return (
    <Panel title="Points">
      <ul className="px-4 py-2 text-sm">
        {parts.map(([k, label]) => (
          <li key={k} className="flex items-center justify-between py-0.5">
            <span>{label}</span>
            <Points
              label={label}
              most={10000}
              value={rubric[k] ?? 0}
              set={(v) => setRubric({ ...rubric, [k]: v })}
            />
          </li>
        ))}
        <li className="flex justify-between border-t border-base-300 pt-1 font-semibold">
          <span>Together</span>
          <span>{points(together)}</span>
        </li>
        <li className="pt-2">
          <label className="flex flex-col gap-1">
            What an attempt cannot show, as the sketches of a STEP file:
            <select
              className="select select-xs w-full"
              value={rubric.unshown ?? "scaled"}
              onChange={(e) =>
                setRubric({ ...rubric, unshown: e.target.value as Rubric["unshown"] })
              }
            >
              <option value="scaled">as much of its points as of the rest</option>
              <option value="nothing">none of its points</option>
              <option value="person">a person gives its points</option>
            </select>
          </label>
        </li>
      </ul>
    </Panel>
  );
}

/** What a rubric takes off, and what it leaves at most where certain faults are there. */
export function DeductionFields({
  rubric,
  setRubric,
  faults,
}: {
  rubric: Rubric;
  setRubric: (r: Rubric) => void;
  /** What a cap can be for. */
  faults: Schemas["CapFault"][];
}) {
  const caps = rubric.caps ?? [];
  return (
    <>
      <Panel title="Taken off">
        <ul className="px-4 py-2 text-sm">
          {offs.map(([k, label]) => {
            const d = rubric[k];
            return (
              <li key={k} className="flex flex-wrap items-center gap-x-2 py-0.5">
                <label className="mr-auto flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    checked={!!d}
                    onChange={(e) =>
                      setRubric({
                        ...rubric,
                        [k]: e.target.checked ? { each: 10, most: 50 } : undefined,
                      })
                    }
                  />
                  {label}
                </label>
                {d && (
                  <span className="flex items-center gap-1">
                    <Points
                      label={`${label}, percent`}
                      most={100}
                      value={d.each}
                      set={(v) =>
                        setRubric({ ...rubric, [k]: { ...d, each: v, most: Math.max(v, d.most) } })
                      }
                    />
                    %, at most{" "}
                    <Points
                      label={`${label}, at most percent`}
                      most={100}
                      value={d.most}
                      set={(v) => setRubric({ ...rubric, [k]: { ...d, most: v } })}
                    />
                    %
                  </span>
                )}
              </li>
            );
          })}
        </ul>
      </Panel>
      <Panel title="Caps">
        <ul className="px-4 py-2 text-sm">
          {faults.map((f) => {
            const cap = caps.find((c) => c.when === f.when);
            const rest = caps.filter((c) => c.when !== f.when);
            return (
              <li key={f.when} className="flex flex-wrap items-center gap-x-2 py-0.5">
                <label className="mr-auto flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    checked={!!cap}
                    onChange={(e) =>
                      setRubric({
                        ...rubric,
                        caps: e.target.checked ? [...rest, { when: f.when, percent: 50 }] : rest,
                      })
                    }
                  />
                  where {f.words}
                </label>
                {cap && (
                  <span className="flex items-center gap-1">
                    at most{" "}
                    <Points
                      label={`Cap where ${f.words}, percent`}
                      most={100}
                      value={cap.percent}
                      set={(v) =>
                        setRubric({ ...rubric, caps: [...rest, { when: f.when, percent: v }] })
                      }
                    />
                    %
                  </span>
                )}
              </li>
            );
          })}
        </ul>
      </Panel>
    </>
  );
}
