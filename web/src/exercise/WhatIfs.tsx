import type { Schemas } from "../api/client";
import { Panel, sentence } from "../controls/notices";

type WhatIf = Schemas["DraftWhatIf"];

/** Which driving sizes a model is rebuilt with in the check, by names that students read. */
export function WhatIfs({
  list,
  faults,
  driving,
  files,
  change,
}: {
  list: WhatIf[];
  /** Of each why it cannot be made; empty where it can. */
  faults: string[];
  driving: Schemas["DrivingSize"][];
  /** An attempt in STEP comes with a file for each. */
  files: boolean;
  change: (list: WhatIf[], files: boolean) => void;
}) {
  const put = (i: number, w: WhatIf) =>
    change(
      list.map((x, k) => (k === i ? w : x)),
      files,
    );
  const first = driving[0];
  return (
    <Panel title="What-ifs">
      <div className="flex flex-col gap-3 px-4 py-2 text-sm">
        {!first && <p>The reference has no driving sizes that could be changed.</p>}
        {list.map((w, i) => (
          <fieldset
            key={i}
            className="relative flex flex-col gap-1 border-l-4 border-base-300 pl-2"
          >
            <legend className="sr-only">What-if {i + 1}</legend>
            <div className="flex items-center gap-2">
              <input
                className="input input-xs flex-1"
                aria-label={`Name of what-if ${i + 1}`}
                placeholder="name"
                value={w.name}
                onChange={(e) => put(i, { ...w, name: e.target.value })}
              />
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                onClick={() =>
                  change(
                    list.filter((_, k) => k !== i),
                    files,
                  )
                }
              >
                Remove the what-if
              </button>
            </div>
            {driving.map((d) => (
              <label key={d.name} className="flex items-center gap-2">
                <span className="w-32">{d.name}</span>
                <input
                  className="input input-xs flex-1"
                  aria-label={`${d.name} in what-if ${i + 1}`}
                  placeholder={d.text}
                  value={w.set[d.name] ?? ""}
                  onChange={(e) => {
                    const others = Object.entries(w.set).filter(([k]) => k !== d.name);
                    const text = e.target.value;
                    put(i, {
                      ...w,
                      set: Object.fromEntries(text ? [...others, [d.name, text]] : others),
                    });
                  }}
                />
              </label>
            ))}
            {faults[i] && <p role="status">{sentence(faults[i])}</p>}
          </fieldset>
        ))}
        {first && (
          <button
            type="button"
            className="btn btn-xs self-start"
            onClick={() => change([...list, { name: "", set: {} }], files)}
          >
            Add a what-if
          </button>
        )}
        {list.length > 0 && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={files}
              onChange={(e) => change(list, e.target.checked)}
            />
            an attempt in STEP comes with a file for each
          </label>
        )}
      </div>
    </Panel>
  );
}
