import { useState } from "react";
import { type Doc, type Form, type Part, type Step, titleOf } from "./types";
import { cx } from "../app/cx";

interface Props {
  doc: Doc;
  part: Part | undefined;
  fresh: boolean;
  forms: ReadonlyMap<string, Form>;
  marked: string | null;
  mark: (id: string) => void;
  until: string | null;
  build: (id: string | null) => void;
  edit: (id: string) => void;
  draw: (id: string) => void;
  move: (id: string, by: number) => void;
  turn: (id: string) => void;
  remove: (id: string) => void;
}

/**
 * The steps as a shop's route card: numbered by tens, each with its state and what it builds on.
 */
export function RouteCard(p: Props) {
  const { doc, part } = p;
  const [menu, setMenu] = useState<string | null>(null);
  const stands = new Map(part?.steps.map((s) => [s.id, s]));
  const untilAt =
    p.until === null ? doc.steps.length : doc.steps.findIndex((s) => s.id === p.until) + 1;
  const sketched = (s: Step) => p.forms.get(s.kind)?.gives === "sketch";
  const nameOf = (id: string) => stands.get(id)?.title ?? id;
  return (
    <ol className="min-h-0 flex-1 overflow-y-auto text-sm" aria-label="Steps">
      {doc.steps.map((s, i) => {
        const now = stands.get(s.id);
        const beyond = i >= untilAt;
        const open = menu === s.id;
        const state = s.off
          ? "off"
          : beyond
            ? "not built"
            : !now
              ? "…"
              : now.failed
                ? "fails"
                : sketched(s)
                  ? (s.entities as unknown[] | undefined)?.length === 0
                    ? "empty"
                    : now.freedom === 0
                      ? "held"
                      : `${now.freedom} loose`
                  : now.message
                    ? "look"
                    : "rebuilt";
        return (
          <li
            key={s.id}
            className={cx(
              "border-b border-base-300",
              p.marked === s.id && "bg-base-200",
              (beyond || s.off) && "opacity-60",
            )}
            data-step={s.id}
            data-state={state}
          >
            <div className="flex items-center gap-1 px-2 py-0.5">
              <span className="w-7 shrink-0 font-heading text-xs tabular-nums">{(i + 1) * 10}</span>
              <button
                type="button"
                className="min-w-0 flex-1 truncate text-left"
                title={s.note}
                onClick={() => p.mark(s.id)}
                onDoubleClick={() => (sketched(s) ? p.draw(s.id) : p.edit(s.id))}
              >
                <span className={s.name ? "font-semibold" : "italic"}>{titleOf(s, part)}</span>{" "}
                {s.name && (
                  <span className="text-xs opacity-80">
                    {p.forms.get(s.kind)?.title.toLowerCase() ?? s.kind}
                  </span>
                )}
              </button>
              <span
                className={cx(
                  "shrink-0 text-xs",
                  state === "fails" && "border border-error px-1 font-bold",
                )}
                title={now?.message}
              >
                {state}
              </span>
              <button
                type="button"
                className="btn btn-ghost btn-xs px-1"
                aria-label={`More for ${titleOf(s, part)}`}
                aria-expanded={open}
                onClick={() => setMenu(open ? null : s.id)}
              >
                ⋮
              </button>
            </div>
            {(p.marked === s.id || open) && now && (now.message || now.needs.length > 0) && (
              <div className="px-2 pb-1 pl-10 text-xs">
                {now.message && (
                  <p className={now.failed ? "font-semibold" : ""}>
                    {now.message}
                    {now.remedy && `; ${now.remedy}`}
                  </p>
                )}
                {now.needs.length > 0 && (
                  <p className="opacity-80">builds on {now.needs.map(nameOf).join(", ")}</p>
                )}
              </div>
            )}
            {open && (
              <div className="flex flex-wrap gap-1 px-2 pb-1.5 pl-10">
                {sketched(s) ? (
                  <button type="button" className="btn btn-xs" onClick={() => p.draw(s.id)}>
                    Open the sketch
                  </button>
                ) : null}
                <button
                  type="button"
                  className="btn btn-xs"
                  onClick={() => {
                    setMenu(null);
                    p.edit(s.id);
                  }}
                >
                  {sketched(s) ? "Its plane" : "Change it"}
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  disabled={i === 0}
                  onClick={() => p.move(s.id, i - 1)}
                >
                  Earlier
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  disabled={i === doc.steps.length - 1}
                  onClick={() => p.move(s.id, i + 1)}
                >
                  Later
                </button>
                <button type="button" className="btn btn-xs" onClick={() => p.turn(s.id)}>
                  {s.off ? "Turn on" : "Turn off"}
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  onClick={() => p.build(p.until === s.id ? null : s.id)}
                >
                  {p.until === s.id ? "Build all" : "Build up to here"}
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  onClick={() => {
                    setMenu(null);
                    p.remove(s.id);
                  }}
                >
                  Remove
                </button>
              </div>
            )}
            {p.until === s.id && (
              <div
                className={cx(
                  "flex items-center gap-2 border-t-2 border-dashed border-primary",
                  "px-2 py-0.5 text-xs",
                )}
              >
                <span className="mr-auto">built up to here; new steps come in here</span>
                <button type="button" className="btn btn-xs" onClick={() => p.build(null)}>
                  Build all
                </button>
              </div>
            )}
          </li>
        );
      })}
      {doc.steps.length === 0 && (
        <li className="px-3 py-3 text-sm">
          No step yet. A part begins with a sketch: choose the plane so that the pictorial view
          comes out as on the sheet, and put the middle of the symmetry on the origin.
        </li>
      )}
    </ol>
  );
}
