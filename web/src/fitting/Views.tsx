import { cx } from "../app/cx";

/** How the assembly is looked at: put together, drawn apart, or cut along a plane. */
export interface View {
  /** From 0, put together, to 1, drawn apart. */
  apart: number;
  cut: { axis: 0 | 1 | 2; share: number; flipped: boolean } | null;
}

export const together: View = { apart: 0, cut: null };

const planes = ["from left to right", "from front to back", "from below to above"];

/** The sliders below the view. */
export function Views({
  view,
  set,
  forced,
  busy,
  anew,
}: {
  view: View;
  set: (v: View) => void;
  forced: string[];
  busy: boolean;
  /** Lets each component go its own way again, where somebody has set where some go. */
  anew?: () => void;
}) {
  const { cut } = view;
  return (
    <div
      className={cx(
        "flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-base-300",
        "px-3 py-1 text-sm",
      )}
      role="group"
      aria-label="How it is looked at"
    >
      <label className="flex items-center gap-2">
        Drawn apart
        <input
          type="range"
          className="range range-xs w-40"
          min={0}
          max={1}
          step={0.01}
          value={view.apart}
          onChange={(e) => set({ ...view, apart: Number(e.target.value) })}
        />
      </label>
      {busy && (
        <span className="text-xs" role="status">
          Working out how it comes apart …
        </span>
      )}
      {view.apart > 0 && forced.length > 0 && (
        <span className="text-xs" role="status">
          {forced.join(", ")}: held on all sides, drawn through what is there
        </span>
      )}
      {view.apart > 0 && anew && (
        <button
          type="button"
          className="btn btn-xs"
          title="Forget where components were dragged to"
          onClick={anew}
        >
          Draw apart by itself
        </button>
      )}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={cut !== null}
          onChange={(e) =>
            set({ ...view, cut: e.target.checked ? { axis: 1, share: 0.5, flipped: false } : null })
          }
        />
        Section
      </label>
      {cut && (
        <>
          <select
            className="select select-xs w-44"
            aria-label="The plane moves"
            value={cut.axis}
            onChange={(e) =>
              set({ ...view, cut: { ...cut, axis: Number(e.target.value) as 0 | 1 | 2 } })
            }
          >
            {planes.map((words, k) => (
              <option key={words} value={k}>
                {words}
              </option>
            ))}
          </select>
          <input
            type="range"
            className="range range-xs w-40"
            aria-label="Place of the plane"
            min={0}
            max={1}
            step={0.005}
            value={cut.share}
            onChange={(e) => set({ ...view, cut: { ...cut, share: Number(e.target.value) } })}
          />
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => set({ ...view, cut: { ...cut, flipped: !cut.flipped } })}
          >
            Look from the other side
          </button>
        </>
      )}
    </div>
  );
}
