import { Problem } from "../api/client";
import { Panel, Trouble, sentence } from "../controls/notices";
import type { Dimensioning } from "./useDimensioning";

/** What is offered for the edges that were picked, and what to do next. */
export function DimensionPanel({ dim }: { dim: Dimensioning }) {
  const { picked, offers, offer, take, all, setAll, error, asking, drop } = dim;
  const next = !picked
    ? "Pick an edge: of a face that is seen edge on, or the rim of a round one." +
      " Or pick a face of the reference."
    : offers.length === 0
      ? picked.faces.length > 0
        ? "Pick a second face."
        : "Pick a second edge in the same view."
      : dim.count === 1
        ? "Click beside the part to put it down, or pick a second one."
        : "Click where the dimension should stand.";
  return (
    <Panel title="New dimension">
      <div className="flex flex-col gap-2 px-4 py-2 text-sm">
        <p role="status">{asking ? "Looking …" : next}</p>
        {error instanceof Problem && dim.count === 1 ? (
          <p>{sentence(error.message)}</p>
        ) : (
          error !== null && <Trouble error={error} />
        )}
        {offers.length > 0 && (
          <fieldset className="flex flex-col gap-1">
            <legend className="sr-only">What fits</legend>
            {offers.map((o) => (
              <label key={o.id} className="flex items-baseline gap-2">
                <input
                  type="radio"
                  className="radio radio-xs"
                  name="offer"
                  checked={o === offer}
                  onChange={() => take(o.id)}
                />
                <span className="font-semibold">{o.text}</span>
                <span>{o.there ? `${o.title}, which stands among the notes` : o.label}</span>
              </label>
            ))}
          </fieldset>
        )}
        {offer && offer.like > 0 && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={all}
              onChange={(e) => setAll(e.target.checked)}
            />
            at all {offer.like + 1} places of this size
          </label>
        )}
        <p className="text-xs">
          By keys: <kbd className="kbd kbd-xs">.</kbd> and <kbd className="kbd kbd-xs">,</kbd> go
          from line to line, <kbd className="kbd kbd-xs">Space</kbd> picks,{" "}
          <kbd className="kbd kbd-xs">Enter</kbd> puts down.
        </p>
        {picked && (
          <button type="button" className="btn btn-xs self-start" onClick={drop}>
            Pick anew
          </button>
        )}
      </div>
    </Panel>
  );
}
