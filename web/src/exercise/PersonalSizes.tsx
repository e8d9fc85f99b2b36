import type { Schemas } from "../api/client";
import { Panel, sentence } from "../controls/notices";

type Range = Schemas["SizeRange"];

const parts = [
  ["least", "from"],
  ["most", "to"],
  ["step", "in steps of"],
] as const;

/** From which ranges driving sizes are drawn for every student. */
export function PersonalSizes({
  list,
  fault,
  possible,
  driving,
  change,
}: {
  list: Range[];
  /** What is wrong with them, and how many sheets they make; nothing while that is unknown. */
  fault: string | undefined;
  possible: number | undefined;
  driving: Schemas["DrivingSize"][];
  change: (list: Range[]) => void;
}) {
  const put = (i: number, r: Range) => change(list.map((x, k) => (k === i ? r : x)));
  const free = driving.filter((d) => !list.some((r) => r.parameter === d.name));
  return (
    <Panel title="Personal sizes">
      <div className="flex flex-col gap-3 px-4 py-2 text-sm">
        {driving.length === 0 ? (
          <p>The reference has no driving sizes that could be drawn for each student.</p>
        ) : (
          <p>
            Give ranges to two sizes or more, and each student can get a sheet of their own when the
            exercise is issued: any two sheets differ in two sizes.
          </p>
        )}
        {list.map((r, i) => (
          <fieldset key={i} className="flex flex-col gap-1 border-l-4 border-base-300 pl-2">
            <legend className="sr-only">Range {i + 1}</legend>
            <div className="flex items-center gap-2">
              <select
                className="select select-xs flex-1"
                aria-label={`Size of range ${i + 1}`}
                value={r.parameter}
                onChange={(e) => put(i, { ...r, parameter: e.target.value })}
              >
                {driving
                  .filter((d) => d.name === r.parameter || free.includes(d))
                  .map((d) => (
                    <option key={d.name} value={d.name}>
                      {d.name} ({d.text})
                    </option>
                  ))}
              </select>
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                onClick={() => change(list.filter((_, k) => k !== i))}
              >
                Remove the range
              </button>
            </div>
            <div className="flex gap-2">
              {parts.map(([of, label]) => (
                <label key={of} className="flex flex-1 flex-col">
                  {label}
                  <input
                    className="input input-xs w-full"
                    aria-label={`${r.parameter} ${label}`}
                    value={r[of]}
                    onChange={(e) => put(i, { ...r, [of]: e.target.value })}
                  />
                </label>
              ))}
            </div>
          </fieldset>
        ))}
        {fault && list.length > 0 && <p role="status">{sentence(fault)}</p>}
        {!fault && possible && <p role="status">{possible} different sheets are possible.</p>}
        {free[0] && (
          <button
            type="button"
            className="btn btn-xs self-start"
            onClick={() =>
              change([
                ...list,
                { parameter: free[0]!.name, least: free[0]!.text, most: free[0]!.text, step: "" },
              ])
            }
          >
            Add a range
          </button>
        )}
      </div>
    </Panel>
  );
}
