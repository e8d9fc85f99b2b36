import { useState } from "react";
import { cx } from "../app/cx";
import type { Doc, Form } from "./types";
import type { Forms } from "./useForms";

const groups: Record<string, string> = {
  draw: "Draw",
  material: "Material",
  edges: "Edges and walls",
  repeat: "Repeat",
  solids: "Solids",
  notes: "Notes",
};

/** Begins a step: of a kind that most parts need at once, of any other from the list of all. */
export function NewStep({
  forms,
  doc,
  begin,
}: {
  forms: Forms;
  doc: Doc;
  begin: (kind: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const all = [...forms.kinds.values()];
  const drawn = doc.steps.some(forms.isSketch);
  return (
    <div className="relative border-t border-base-300 p-2">
      {open && (
        <Kinds
          forms={all}
          begin={(kind) => {
            setOpen(false);
            begin(kind);
          }}
          close={() => setOpen(false)}
        />
      )}
      <div className="flex gap-1">
        <button
          type="button"
          className="btn btn-sm btn-primary flex-1"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          New step …
        </button>
        {all.map(
          (f) =>
            f.quick && (
              <button
                key={f.kind}
                type="button"
                className="btn btn-sm"
                disabled={f.fields.some((x) => x.kind === "sketch" && !x.optional) && !drawn}
                onClick={() => begin(f.kind)}
              >
                {f.title}
              </button>
            ),
        )}
      </div>
    </div>
  );
}

/** The kinds of steps by what they are for. */
function Kinds({
  forms,
  begin,
  close,
}: {
  forms: Form[];
  begin: (kind: string) => void;
  close: () => void;
}) {
  return (
    <div
      className={cx(
        "absolute right-2 bottom-full left-2 z-20 mb-1 max-h-[70vh]",
        "overflow-y-auto border-2 border-neutral bg-base-100 p-2 shadow-lg",
      )}
      role="dialog"
      aria-label="New step"
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          close();
        }
      }}
    >
      {Object.entries(groups).map(([g, title]) => (
        <section key={g} className="mb-1">
          <h3 className="text-xs font-semibold opacity-80">{title}</h3>
          <div className="grid grid-cols-2 gap-0.5">
            {forms
              .filter((f) => f.group === g)
              .map((f) => (
                <button
                  key={f.kind}
                  type="button"
                  className="btn btn-ghost btn-xs justify-start"
                  title={f.what}
                  onClick={() => begin(f.kind)}
                >
                  {f.title}
                </button>
              ))}
          </div>
        </section>
      ))}
    </div>
  );
}
