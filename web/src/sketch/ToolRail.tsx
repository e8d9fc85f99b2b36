import type { Mode } from "./modes";
import { ToolPicture } from "./symbols";
import type { Tool } from "./core/types";
import { cx } from "../app/cx";

interface Props {
  tools: Tool[];
  mode: Mode;
  setMode: (m: Mode) => void;
  mayTrace: boolean;
}

/** The order of the tools on the rail; the first ten have number keys. */
export const railOrder = [
  "line",
  "arc-through",
  "circle",
  "rectangle",
  "rectangle-centre",
  "slot",
  "arc",
  "polygon",
  "point",
  "spline",
  "polygon-flats",
  "curved-slot",
  "ellipse",
  "spline-poles",
];

const edits = [
  { do: "trim", name: "Trim a piece" },
  { do: "extend", name: "Extend to the next curve" },
  { do: "split", name: "Split" },
] as const;

export const toolKey = (id: string) => {
  const i = railOrder.indexOf(id);
  return i >= 0 && i < 10 ? String((i + 1) % 10) : undefined;
};

/** The tools beside the drawing board. */
export function ToolRail({ tools, mode, setMode, mayTrace }: Props) {
  const ordered = railOrder
    .map((id) => tools.find((t) => t.id === id))
    .filter((t): t is Tool => t !== undefined);
  const choice = (id: string, name: string, on: boolean, go: () => void, key?: string) => (
    <button
      key={id}
      type="button"
      className={`k-tool ${on ? "is-on" : ""}`}
      aria-pressed={on}
      aria-label={name}
      data-key={key}
      aria-keyshortcuts={key}
      title={key ? `${name} (${key})` : name}
      onClick={go}
    >
      <ToolPicture tool={id} />
    </button>
  );
  return (
    <div
      className={cx(
        "flex w-11 flex-col items-center gap-px overflow-y-auto border-r",
        "border-base-300 bg-base-100 py-1",
      )}
      role="toolbar"
      aria-label="Tools"
      aria-orientation="vertical"
    >
      {choice("choose", "Choose and pull (Esc)", mode.kind === "choose", () =>
        setMode({ kind: "choose" }),
      )}
      <hr className="my-0.5 w-7 border-base-300" />
      {ordered.map((t) =>
        choice(
          t.id,
          t.name,
          mode.kind === "draw" && mode.tool === t.id,
          () => setMode({ kind: "draw", tool: t.id, places: [] }),
          toolKey(t.id),
        ),
      )}
      <hr className="my-0.5 w-7 border-base-300" />
      {edits.map((a) =>
        choice(a.do, a.name, mode.kind === "edit" && mode.do === a.do, () =>
          setMode({ kind: "edit", do: a.do }),
        ),
      )}
      {mayTrace &&
        choice(
          "trace",
          "Trace an edge of the solid",
          mode.kind === "edit" && mode.do === "trace",
          () => setMode({ kind: "edit", do: "trace" }),
        )}
    </div>
  );
}
