import type { ReactNode } from "react";
import { Link } from "react-router";
import { cx } from "../app/cx";
import { placeQuery, usePlace } from "../fitting/inPlace";
import { Saved } from "./head";
import type { Frame } from "./core/types";
import type { SaveState } from "./useSave";
import type { Sketching } from "./useSketch";

/** The head of the drawing board: which sketch it is, how free it is, and what can be done. */
export function BoardHead(p: {
  sk: Sketching;
  model: { id: number; name: string };
  name: string;
  on: string;
  saving: SaveState;
  /** Leads to the loose places one by one, or to what contradicts. */
  next: () => void;
  quiet: { on: boolean; set: (on: boolean) => void };
  sheet: { on: boolean; set: (on: boolean) => void } | null;
  backToPart: (extrude: boolean) => void;
  quick: () => void;
  help: () => void;
  children: ReactNode;
}) {
  const { frame, step } = p.sk;
  const { place } = usePlace();
  const search = place ? `?${placeQuery(place)}` : "";
  return (
    <div
      className={cx(
        "flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300",
        "bg-base-100 px-3 py-1",
      )}
    >
      <h1 className="max-w-full min-w-32 truncate text-lg!" title={`${p.model.name} / ${p.name}`}>
        <Link className="link-hover link" to={`/models/${p.model.id}${search}`}>
          {p.model.name}
        </Link>{" "}
        / {p.name}
      </h1>
      <span className="shrink-0 text-sm">{p.on}</span>
      <button
        type="button"
        className="btn btn-xs w-28 shrink-0"
        data-freedom={frame?.analysed ? frame.freedom : undefined}
        onClick={p.next}
        title="Freedoms left; leads to the loose places one by one"
      >
        {freedom(frame)}
      </button>
      <Saved state={p.saving} />
      <div className="ml-auto flex flex-wrap items-center gap-1">
        <button
          type="button"
          className="btn btn-xs"
          disabled={!frame?.undo}
          title={frame?.undo && `Undo: ${frame.undo}`}
          onClick={() => void step("undo")}
        >
          Undo
        </button>
        <button
          type="button"
          className="btn btn-xs"
          disabled={!frame?.redo}
          title={frame?.redo && `Redo: ${frame.redo}`}
          onClick={() => void step("redo")}
        >
          Redo
        </button>
        <button
          type="button"
          className="btn btn-xs w-28"
          aria-pressed={p.quiet.on}
          onClick={() => p.quiet.set(!p.quiet.on)}
        >
          {p.quiet.on ? "Show sizes" : "Quieten sizes"}
        </button>
        {p.sheet && (
          <button
            type="button"
            className="btn btn-xs w-24"
            aria-pressed={p.sheet.on}
            onClick={() => p.sheet?.set(!p.sheet.on)}
          >
            {p.sheet.on ? "Sheet away" : "Sheet"}
          </button>
        )}
        <button
          type="button"
          className="btn btn-xs"
          title="Alt Enter"
          onClick={() => p.backToPart(false)}
        >
          Back to the part
        </button>
        <button
          type="button"
          className="btn btn-xs"
          title="Alt Shift Enter"
          onClick={() => p.backToPart(true)}
        >
          Extrude this
        </button>
        {p.children}
        <button type="button" className="btn btn-primary btn-xs" onClick={p.quick}>
          Do … <kbd className="kbd kbd-xs text-base-content">q</kbd>
        </button>
        <button type="button" className="btn btn-xs" onClick={p.help} aria-label="Keys">
          ?
        </button>
      </div>
    </div>
  );
}

/** How free a sketch still is, in a word. */
function freedom(frame: Frame | null): string {
  if (!frame) return "Opening …";
  if (!frame.solved) return "Contradiction";
  if (!frame.analysed) return "Looking …";
  if (frame.curves.length + frame.points.length === 0) return "Empty";
  return frame.freedom === 0 ? "Held" : `${frame.freedom} loose`;
}
