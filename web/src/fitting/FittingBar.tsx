import type { ReactNode } from "react";
import { Link } from "react-router";
import { useSaving } from "../saving/savers";
import type { Saver } from "../saving/saver";
import type { Me } from "../api/client";
import { teaches } from "../session/session";
import { type PlacedSheet, SheetPlaceSelect } from "../sheet/SheetPlace";
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
  row,
  sheet,
  me,
  frame,
  fitting,
  saver,
  add,
  collide,
  over,
  fit,
  help,
  remove,
  read,
  nextLoose,
}: {
  id: number;
  /** What it is made for. */
  row: { issueId?: number; exerciseId?: number };
  sheet: PlacedSheet | null;
  me: Me;
  frame: Frame;
  fitting: Fitting;
  saver: Saver;
  add: () => void;
  collide: Look & { done: number; stop: () => void };
  over: Look;
  fit: () => void;
  help: () => void;
  remove: () => void;
  /** Reads joints from the contacts. */
  read: () => void;
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
      <Step word="Undo" last={frame.undo} take={fitting.undo} />
      <Step word="Redo" last={frame.redo} take={fitting.redo} />
      <Tool
        disabled={frame.components.length < 2}
        press={() => (collide.isPending ? collide.stop() : collide.mutate())}
      >
        {collide.isPending
          ? `Looking ${Math.round(100 * collide.done)} % … stop it`
          : "Look for collisions"}
      </Tool>
      <Tool disabled={over.isPending || frame.components.length === 0} press={() => over.mutate()}>
        {over.isPending ? "Looking …" : "Look over"}
      </Tool>
      <Tool press={fit}>Fit</Tool>
      {sheet && <SheetPlaceSelect sheet={sheet} />}
      <Tool press={help}>Keys</Tool>
      <FittingMenu
        id={id}
        name={frame.name}
        teaches={teaches(me)}
        issue={row.issueId}
        exercise={row.exerciseId}
        handsIn={me.roles.includes("student")}
        loose={frame.components.length > 1 ? frame.unjoined : 0}
        read={read}
        settle={() => saver.flush()}
        look={over.mutate}
        remove={remove}
      />
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

function Tool({
  press,
  children,
  ...more
}: {
  press: () => void;
  children: ReactNode;
  disabled?: boolean;
  title?: string;
}) {
  return (
    <button type="button" className="btn btn-xs" onClick={press} {...more}>
      {children}
    </button>
  );
}

/** Takes the last step back, or again, and says which that is. */
function Step({ word, last, take }: { word: string; last?: string | undefined; take: () => void }) {
  return (
    <Tool
      press={take}
      disabled={!last}
      title={last ? `${word}: ${last}` : `Nothing to ${word.toLowerCase()}`}
    >
      {word}
    </Tool>
  );
}
