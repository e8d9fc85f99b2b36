import { useState } from "react";
import { Entry } from "./Entry";
import type { Command, Frame } from "./useFitting";

/** What the assembly says of the part of a component: sizes, material, and whether it is soft. */
export function PartOf({
  frame,
  id,
  act,
}: {
  frame: Frame;
  id: string;
  act: (c: Command) => void;
}) {
  const [open, setOpen] = useState(false);
  const [colour, setColour] = useState<string | null>(null);
  const of = frame.components.find((c) => c.id === id)?.path[0];
  const row = frame.parts.find((r) => r.part.id === of);
  if (!row) return null;
  const { part } = row;
  const nested = frame.components.find((c) => c.id === id)?.nested ?? false;
  const others =
    new Set(frame.components.filter((c) => c.path[0] === part.id).map((c) => c.of)).size - 1;
  const change = (p: Partial<typeof part>) =>
    act({ do: "part", id: part.id, part: { ...part, ...p } });
  const fields = [
    ["Name", "name", part.name, ""],
    ["Number", "number", part.number ?? "", ""],
    ["Material", "material", part.material ?? "", row.made ?? "none stated"],
    ["Density", "density", part.density ?? "", "kg/m³"],
  ] as const;
  return (
    <>
      <button
        type="button"
        className="btn btn-xs"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {open ? "Less of its part" : "Its part …"}
      </button>
      {open && (
        <div className="flex w-full flex-col gap-1" data-part={part.id}>
          <p className="text-xs">
            {part.name}
            {others > 0 && `, with ${others} more ${others === 1 ? "component" : "components"}`}
          </p>
          {row.sizes.map((s) => (
            <label key={s.name} className="flex items-center gap-1">
              <span className="w-20 truncate" title={s.note}>
                {s.name}
              </span>
              <Entry
                label={`${s.name} of ${part.name}`}
                value={s.set}
                hint={s.own ?? "gone from the part"}
                take={(text) => {
                  const values = Object.entries({ ...part.values, [s.name]: text });
                  change({ values: Object.fromEntries(values.filter(([, v]) => v !== "")) });
                }}
              />
              <span className="w-16 truncate text-right text-xs tabular-nums">{s.value}</span>
            </label>
          ))}
          {/* An assembly is made of what its own parts are made of. */}
          {(nested ? fields.slice(0, 2) : fields).map(([label, name, value, hint]) => (
            <label key={name} className="flex items-center gap-1">
              <span className="w-20">{label}</span>
              <Entry
                label={`${label} of ${part.name}`}
                value={value}
                hint={hint}
                take={(text) =>
                  !text && name === "name" ? false : change({ [name]: text || undefined })
                }
              />
            </label>
          ))}
          {!nested && (
            <label className="flex items-center gap-1">
              <span className="w-20">Colour</span>
              <input
                type="color"
                className="h-5 w-10"
                aria-label={`Colour of ${part.name}`}
                value={colour ?? part.colour ?? "#d6b98c"}
                onChange={(e) => setColour(e.target.value)}
                onBlur={() => {
                  if (colour && colour !== part.colour) change({ colour });
                  setColour(null);
                }}
              />
              {part.colour && (
                <button
                  type="button"
                  className="btn btn-xs"
                  onClick={() => change({ colour: undefined })}
                >
                  None of its own
                </button>
              )}
            </label>
          )}
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={part.soft ?? false}
              onChange={(e) => change({ soft: e.target.checked })}
            />
            Soft: it gives way, and collides with nothing
          </label>
        </div>
      )}
    </>
  );
}
