import { Link } from "react-router";
import { useSaving } from "../saving/savers";
import type { Saver } from "../saving/saver";
import { FittingMenu } from "./FittingMenu";
import type { Fitting, Frame } from "./useFitting";

const savingWords = {
  saved: "Saved",
  unsaved: "Not saved yet",
  saving: "Saving …",
  failed: "Not saved",
  stale: "Changed elsewhere",
};

interface Look {
  isPending: boolean;
  mutate: () => void;
}

/** What can be done with the whole assembly, how free it is, and whether it is saved. */
export function FittingBar({
  id,
  frame,
  fitting,
  saver,
  add,
  collide,
  over,
  fit,
  help,
  remove,
  nextLoose,
}: {
  id: number;
  frame: Frame;
  fitting: Fitting;
  saver: Saver;
  add: () => void;
  collide: Look & { done: number; stop: () => void };
  over: Look;
  fit: () => void;
  help: () => void;
  remove: () => void;
  nextLoose: () => void;
}) {
  const saving = useSaving(saver);
  return (
    <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-3 py-1.5">
      <Link to="/models" className="link-hover link text-sm">
        My models
      </Link>
      <h1 className="sr-only">{frame.name}</h1>
      <input
        key={frame.name}
        className="input input-xs font-heading w-40 text-base font-semibold"
        aria-label="Name of the assembly"
        defaultValue={frame.name}
        maxLength={150}
        onBlur={(e) => {
          const name = e.target.value.trim();
          if (name && name !== frame.name) void fitting.act({ do: "name", name });
          else e.target.value = frame.name;
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
      <button type="button" className="btn btn-primary btn-xs" onClick={add}>
        Put in a part …
      </button>
      <button
        type="button"
        className="btn btn-xs"
        disabled={!frame.undo}
        title={frame.undo ? `Undo: ${frame.undo}` : "Nothing to undo"}
        onClick={fitting.undo}
      >
        Undo
      </button>
      <button
        type="button"
        className="btn btn-xs"
        disabled={!frame.redo}
        title={frame.redo ? `Redo: ${frame.redo}` : "Nothing to redo"}
        onClick={fitting.redo}
      >
        Redo
      </button>
      <button
        type="button"
        className="btn btn-xs"
        disabled={frame.components.length < 2}
        onClick={() => (collide.isPending ? collide.stop() : collide.mutate())}
      >
        {collide.isPending
          ? `Looking ${Math.round(100 * collide.done)} % … stop it`
          : "Look for collisions"}
      </button>
      <button
        type="button"
        className="btn btn-xs"
        disabled={over.isPending || frame.components.length === 0}
        onClick={() => over.mutate()}
      >
        {over.isPending ? "Looking …" : "Look over"}
      </button>
      <button type="button" className="btn btn-xs" onClick={fit}>
        Fit
      </button>
      <button type="button" className="btn btn-xs" onClick={help}>
        Keys
      </button>
      <FittingMenu id={id} name={frame.name} settle={() => saver.flush()} remove={remove} />
      <button
        type="button"
        className="btn btn-xs ml-auto"
        title={
          frame.reason ? `By counting ${frame.counted}: ${frame.reason}` : "Show what is loose"
        }
        onClick={nextLoose}
        data-freedom={frame.freedom}
      >
        {frame.freedom === 0
          ? "Everything is held"
          : `${frame.freedom} ${frame.freedom === 1 ? "freedom" : "freedoms"}`}
      </button>
      <span className="text-xs" role="status">
        {savingWords[saving.kind]}
      </span>
    </div>
  );
}
