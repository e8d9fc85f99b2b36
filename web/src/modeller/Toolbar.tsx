import type { ReactNode } from "react";
import { cx } from "../app/cx";
import { unitWords } from "../app/format";
import { type PlacedSheet, SheetPlaceSelect } from "../sheet/SheetPlace";
import type { Part } from "./types";
import type { Modelling } from "./useModel";
import type { Look } from "./View";

const savedWords = {
  saved: "Saved",
  unsaved: "Not saved yet",
  saving: "Saving …",
  failed: "Not saved",
  stale: "Not saved",
} as const;

/** The head of the modeller: what the model is, whether it is saved, and how it is looked at. */
export function Toolbar(p: {
  m: Modelling;
  part: Part | undefined;
  drafted: boolean;
  toFailed: (step: string | null) => void;
  look: Look;
  setLook: (look: Look) => void;
  fit: () => void;
  sheet: PlacedSheet | null;
  quick: () => void;
  help: () => void;
  children: ReactNode;
}) {
  const { m, look, setLook } = p;
  const failed = p.drafted ? [] : (p.part?.steps.filter((s) => s.failed) ?? []);
  return (
    <div
      className={cx(
        "flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-base-300",
        "bg-base-100 px-3 py-1",
      )}
    >
      <h1 className="min-w-0 truncate text-lg!" title={m.doc.name}>
        {m.doc.name}{" "}
        <span className="text-sm font-normal">
          in {unitWords[m.doc.unit as keyof typeof unitWords]}
        </span>
      </h1>
      <span className="w-24 shrink-0 text-sm" role="status" data-save={m.saving.kind}>
        {savedWords[m.saving.kind]}
      </span>
      {failed.length > 0 && (
        <button
          type="button"
          className="btn btn-xs border-error"
          onClick={() => p.toFailed(failed[0]?.id ?? null)}
        >
          {failed.length === 1 ? "1 step fails" : `${failed.length} steps fail`}
        </button>
      )}
      <div className="ml-auto flex flex-wrap items-center gap-1">
        <button
          type="button"
          className="btn btn-xs"
          disabled={!m.undoes || p.drafted}
          title={m.undoes && `Undo: ${m.undoes}`}
          onClick={m.undo}
        >
          Undo
        </button>
        <button
          type="button"
          className="btn btn-xs"
          disabled={!m.redoes || p.drafted}
          title={m.redoes && `Redo: ${m.redoes}`}
          onClick={m.redo}
        >
          Redo
        </button>
        <Looks look={look} setLook={setLook} />
        <button type="button" className="btn btn-xs" onClick={p.fit}>
          Fit
        </button>
        {p.sheet && <SheetPlaceSelect sheet={p.sheet} />}
        {p.children}
        <button type="button" className="btn btn-primary btn-xs" onClick={p.quick}>
          Do … <kbd className="kbd kbd-xs text-base-content">q</kbd>
        </button>
        <button type="button" className="btn btn-xs" onClick={p.help} aria-label="Keys and help">
          ?
        </button>
      </div>
    </div>
  );
}

/** Shading, projection and section. */
function Looks({ look, setLook }: { look: Look; setLook: (look: Look) => void }) {
  return (
    <>
      <select
        className="select select-xs w-28"
        aria-label="Shading"
        value={look.shading}
        onChange={(e) => setLook({ ...look, shading: e.target.value as Look["shading"] })}
      >
        <option value="shaded">shaded</option>
        <option value="hidden">hidden lines</option>
        <option value="clear">transparent</option>
      </select>
      <select
        className="select select-xs w-24"
        aria-label="Projection"
        value={look.perspective ? "perspective" : "parallel"}
        onChange={(e) => setLook({ ...look, perspective: e.target.value === "perspective" })}
      >
        <option>parallel</option>
        <option>perspective</option>
      </select>
      <select
        className="select select-xs w-28"
        aria-label="Section"
        value={look.cut ? String(look.cut.axis) : ""}
        onChange={(e) => {
          const { at, flip } = look.cut ?? { at: 0.5, flip: false };
          const axis = Number(e.target.value) as 0 | 1 | 2;
          setLook({ ...look, cut: e.target.value === "" ? null : { axis, at, flip } });
        }}
      >
        <option value="">no section</option>
        <option value="0">across X</option>
        <option value="1">across Y</option>
        <option value="2">across Z</option>
      </select>
    </>
  );
}
