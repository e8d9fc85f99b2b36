import { useState } from "react";
import { cx } from "../app/cx";
import { Empty, Panel, sentence } from "../controls/notices";
import { type Tool, sides } from "./tools";
import { ToleranceFields } from "../exercise/ToleranceFields";
import type { Command, SheetDraft } from "./useSheetDraft";

type View = SheetDraft["sheet"]["views"][number];
type Mark = SheetDraft["sheet"]["marks"][number];
type Size = SheetDraft["characteristics"][number];

interface Props {
  drawn: SheetDraft;
  chosen: string | null;
  choose: (item: string | null) => void;
  act: (c: Command) => void;
  tool: Tool;
  /** Takes a tool for the next click, or puts it away. */
  hold: (t: Tool) => void;
}

const viewWords = new Map([...sides, ["auxiliary", "square to a face"] as const]);

/** What a view is called. */
function calledView(v: View) {
  const letter = v.letter ?? "";
  if (v.kind === "detail") return `Detail ${letter}`;
  const words = viewWords.get(v.kind) ?? v.kind;
  if (v.cut?.kind === "revolved") return `Section turned into its view, ${words}`;
  if (v.cut && v.cut.kind !== "local") return `Section ${letter}–${letter}, ${words}`;
  return sentence(v.cut ? `${words}, with a local section` : words).replace(/\.$/, "");
}

const cuts: [string, string][] = [
  ["full", "right through"],
  ["removed", "only what is cut"],
  ["revolved", "turned into its view"],
  ["left", "left half"],
  ["right", "right half"],
  ["above", "upper half"],
  ["below", "lower half"],
];

const textures: [string, string][] = [
  ["texture", "made in any way"],
  ["texture-removed", "material removed"],
  ["texture-kept", "nothing removed"],
];

const arrows: [string, string][] = [
  ["", "as there is room"],
  ["inside", "inside"],
  ["outside", "outside"],
];

function Row({
  item,
  name,
  chosen,
  choose,
}: Pick<Props, "chosen" | "choose"> & { item: string; name: string }) {
  const among = chosen?.split(" ").includes(item) ?? false;
  return (
    <button
      type="button"
      className={cx(
        "w-full px-4 py-1 text-left text-sm hover:bg-base-200",
        among && "bg-base-300 font-semibold",
      )}
      aria-pressed={among}
      onClick={() => choose(chosen === item ? null : item)}
    >
      {name}
    </button>
  );
}

function Choice({
  label,
  value,
  among,
  take,
}: {
  label: string;
  value: string;
  /** What there is to choose, with its words where they are others. */
  among: (string | [string, string])[];
  take: (v: string) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm">
      <span className="w-16">{label}</span>
      <select
        className="select select-xs flex-1"
        value={value}
        onChange={(e) => take(e.target.value)}
      >
        {among.map((x) => {
          const [choice, words] = typeof x === "string" ? [x, x] : x;
          return (
            <option key={choice} value={choice}>
              {words}
            </option>
          );
        })}
      </select>
    </label>
  );
}

function ViewForm({ v, drawn, act, choose, tool, hold }: { v: View } & Omit<Props, "chosen">) {
  const item = `view:${v.id}`;
  /** How the whole view is cut. */
  const section = v.cut && v.cut.kind !== "local" ? v.cut : null;
  return (
    <div className="flex flex-col gap-2 border-y border-base-300 px-4 py-2">
      {!v.cut && sides.some(([kind]) => kind === v.kind) && (
        <Choice
          label="Seen"
          value={v.kind}
          among={sides}
          take={(text) => act({ do: "seen", item, text })}
        />
      )}
      <Choice
        label="Scale"
        value={v.scale ?? drawn.sheet.scale}
        among={drawn.scales}
        take={(text) => act({ do: "scale", item, text })}
      />
      {drawn.sheets > 1 && (
        <Choice
          label="On sheet"
          value={String(drawn.on + 1)}
          among={Array.from({ length: drawn.sheets }, (_, n) => String(n + 1))}
          take={(text) => {
            act({ do: "onto", item, text });
            choose(null);
          }}
        />
      )}
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={v.hidden ?? false}
          onChange={(e) => act({ do: "hidden", item, on: e.target.checked })}
        />
        hidden edges
      </label>
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={v.smooth ?? false}
          onChange={(e) => act({ do: "smooth", item, on: e.target.checked })}
        />
        tangent edges, thin
      </label>
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={v.free ?? false}
          onChange={(e) => act({ do: "free", item, on: e.target.checked })}
        />
        moved by itself
      </label>
      {section && (
        <Choice
          label="Cut"
          value={section.side ?? section.kind}
          among={
            ["stepped", "aligned"].includes(section.kind)
              ? [
                  ["stepped", "in steps"],
                  ["aligned", "turned into one plane"],
                  ["full", "straight"],
                ]
              : cuts
          }
          take={(text) => act({ do: "cut", item, text })}
        />
      )}
      <div className="flex flex-wrap gap-2">
        {section && v.parent !== undefined && ["full", "stepped"].includes(section.kind) && (
          <button
            type="button"
            className={cx("btn btn-xs", tool === "step" && "btn-neutral")}
            aria-pressed={tool === "step"}
            onClick={() => hold("step")}
          >
            Step it to another feature
          </button>
        )}
        {tool === "step" && (
          <p className="text-sm" role="status">
            Click a line of the feature, in the view across which the section is cut.
          </p>
        )}
        {section && (
          <button
            type="button"
            className={cx("btn btn-xs", tool === "whole" && "btn-neutral")}
            aria-pressed={tool === "whole"}
            title="A rib that is cut lengthwise is drawn as if it were not cut"
            onClick={() => hold("whole")}
          >
            Leave a rib whole
          </button>
        )}
        {tool === "whole" && (
          <p className="text-sm" role="status">
            Click the rib in this section; click it once more to have it cut again.
          </p>
        )}
        {v.cut?.kind === "local" && (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => act({ do: "cut", item, text: "" })}
          >
            Close the local section
          </button>
        )}
        {section && (
          <button type="button" className="btn btn-xs" onClick={() => act({ do: "flip", item })}>
            From the other side
          </button>
        )}
        {v.breaks && v.breaks.length > 0 && (
          <button type="button" className="btn btn-xs" onClick={() => act({ do: "shorten", item })}>
            Show it whole
          </button>
        )}
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => {
            act({ do: "remove", item });
            choose(null);
          }}
        >
          Remove the view
        </button>
      </div>
    </div>
  );
}

function NoteField({ m, act, label }: { m: Mark; act: Props["act"]; label: string }) {
  const [text, setText] = useState(m.text ?? "");
  const done = () => {
    if (text.trim() !== "" && text !== m.text)
      act({ do: "write", item: `mark:${m.id}`, text: text.trim() });
  };
  return (
    <input
      className="input input-xs flex-1"
      aria-label={label}
      maxLength={200}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
      }}
    />
  );
}

/** What stands before and behind a size, and its tolerance: each is done when it is left. */
function SizeFields({ m, size, act }: { m: Mark; size: Size } & Pick<Props, "act">) {
  const item = `mark:${m.id}`;
  const [draft, setDraft] = useState(size.tolerance);
  const typed = (on: boolean, label: string, value: string) => (
    <input
      key={`${label} ${value}`}
      className="input input-xs w-20"
      aria-label={label}
      placeholder={on ? "behind" : "before"}
      maxLength={40}
      defaultValue={value}
      onBlur={(e) => {
        if (e.target.value.trim() !== value)
          act({ do: "affix", item, text: e.target.value.trim(), on });
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
      }}
    />
  );
  return (
    <>
      <div className="flex w-full items-center gap-2 text-sm">
        Balloon
        <input
          key={size.balloon}
          className="input input-xs w-12"
          aria-label="Number of the balloon"
          inputMode="numeric"
          defaultValue={size.balloon}
          onBlur={(e) => {
            if (e.target.value.trim() !== String(size.balloon))
              act({ do: "number", item, text: e.target.value });
          }}
          onKeyDown={(e) => {
            if (e.key === "Enter") e.currentTarget.blur();
          }}
        />
      </div>
      <div className="flex w-full items-center gap-2 text-sm">
        Text {typed(false, "Before the size", m.prefix?.trim() ?? "")}
        {typed(true, "Behind the size", m.suffix?.trim() ?? "")}
      </div>
      <div
        className="flex w-full flex-wrap items-center gap-1"
        onBlur={(e) => {
          if (!e.currentTarget.contains(e.relatedTarget) && draft !== size.tolerance)
            act({ do: "tolerance", item, tolerance: draft });
        }}
      >
        <ToleranceFields tolerance={draft} change={setDraft} />
        {draft !== size.tolerance && (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => act({ do: "tolerance", item, tolerance: draft })}
          >
            Set
          </button>
        )}
      </div>
    </>
  );
}

/** What a frame has in a cell: done when it is left. */
function FrameField({
  label,
  name,
  value,
  take,
}: {
  label: string;
  name: string;
  value: string;
  take: (text: string) => void;
}) {
  return (
    <label className="flex w-full items-center gap-2 text-sm">
      <span className="w-16">{label}</span>
      <input
        key={value}
        className="input input-xs w-20"
        aria-label={name}
        defaultValue={value}
        onBlur={(e) => {
          if (e.target.value.trim() !== value) take(e.target.value);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
    </label>
  );
}

function MarkForm({
  m,
  size,
  placing,
  others,
  choose,
  act,
}: {
  m: Mark;
  /** The first size that it states. */
  size?: Size;
  /** A position can be made of it. */
  placing: boolean;
  /** Other notes of its view, with their words. */
  others: [string, string][];
} & Pick<Props, "choose" | "act">) {
  const item = `mark:${m.id}`;
  return (
    <div className="flex flex-wrap gap-2 border-y border-base-300 px-4 py-2">
      {size && m.kind === "frame" && (
        <>
          <FrameField
            label="Zone"
            name="Width of the zone"
            value={size.zone ?? ""}
            take={(text) => act({ do: "zone", item, text })}
          />
          <FrameField
            label="Datums"
            name="Letters of the datums"
            value={(size.datums ?? []).join(", ")}
            take={(text) => act({ do: "datums", item, text })}
          />
        </>
      )}
      {size && m.kind !== "frame" && (
        <SizeFields key={JSON.stringify(size.tolerance ?? null)} m={m} size={size} act={act} />
      )}
      {m.kind === "symbol" && (
        <>
          <NoteField key={m.text} m={m} act={act} label="Text of the symbol" />
          <Choice
            label="How"
            value={m.symbol ?? ""}
            among={textures}
            take={(text) => act({ do: "symbol", item, text })}
          />
        </>
      )}
      {m.form === "linear" && (
        <Choice
          label="Arrows"
          value={m.arrows ?? ""}
          among={arrows}
          take={(text) => act({ do: "arrows", item, text })}
        />
      )}
      {m.kind === "note" ? (
        <NoteField key={m.text} m={m} act={act} label="Text of the note" />
      ) : (
        m.form !== "angle" && (
          <button type="button" className="btn btn-xs" onClick={() => act({ do: "flip", item })}>
            To the other side
          </button>
        )
      )}
      <button
        type="button"
        className="btn btn-xs"
        onClick={() => {
          act({ do: "remove", item });
          choose(null);
        }}
      >
        {m.of ? "Among the notes" : "Remove"}
      </button>
      {placing && (
        <button
          type="button"
          className="btn btn-xs"
          title="This distance and the other one of the hole become exact; its position is checked"
          onClick={() => {
            act({ do: "position", item });
            choose(null);
          }}
        >
          Position in a frame
        </button>
      )}
      {m.kind === "dimension" && m.of?.length === 1 && (
        <button
          type="button"
          className="btn btn-xs"
          title="It is read and no longer checked"
          onClick={() => {
            act({ do: "parentheses", item });
            choose(null);
          }}
        >
          In parentheses
        </button>
      )}
      {others.length > 0 && (
        <select
          className="select select-xs w-full"
          aria-label="Into the note of"
          value=""
          onChange={(e) => {
            act({ do: "merge", item, text: e.target.value });
            choose(`mark:${e.target.value}`);
          }}
        >
          <option value="">into the note of …</option>
          {others.map(([id, words]) => (
            <option key={id} value={id}>
              {words}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}

/** What stands on the sheet: its paper, its views, its marks, and what only a note says. */
export function SheetItems({ drawn, chosen, choose, act, tool, hold }: Props) {
  const labels = new Map(drawn.characteristics.map((c) => [c.id, c.label]));
  const named = (id: string) => `${drawn.balloons[id] ?? ""} ${labels.get(id) ?? id}`.trim();
  const called = (m: Mark) => {
    if (m.kind === "note") return `“${m.text ?? ""}”`;
    if (m.kind === "symbol") return `Surface texture ${m.text ?? ""}`;
    const beside = m.exact ? "exact, in a box" : "in parentheses";
    return (
      m.of?.map(named).join("; ") || sentence(`${m.measures ?? ""}, ${beside}`).replace(/\.$/, "")
    );
  };
  const s = drawn.sheet;
  const leads = (m: Mark) => m.kind === "dimension" && m.form === "leader" && m.of !== undefined;
  const notesBeside = (m: Mark) =>
    s.marks
      .filter((o) => leads(m) && leads(o) && o.id !== m.id && o.view === m.view)
      .map((o): [string, string] => [o.id, called(o)]);
  return (
    <>
      <Panel title="Sheet">
        <div className="flex flex-col gap-2 px-4 py-2">
          <Choice
            label="Paper"
            value={s.paper}
            among={drawn.papers}
            take={(text) => act({ do: "paper", text })}
          />
          <Choice
            label="Scale"
            value={s.scale}
            among={drawn.scales}
            take={(text) => act({ do: "scale", text })}
          />
          <Choice
            label="Projection"
            value={s.projection}
            among={[
              ["first", "first angle"],
              ["third", "third angle"],
            ]}
            take={(text) => act({ do: "projection", text })}
          />
          <div className="flex flex-wrap gap-2">
            <button type="button" className="btn btn-xs" onClick={() => act({ do: "add-sheet" })}>
              Add a sheet
            </button>
            {drawn.sheets > 1 && (
              <button
                type="button"
                className="btn btn-xs"
                title="With its views; what is dimensioned in them goes among the notes"
                onClick={() => act({ do: "end-sheet" })}
              >
                Remove this sheet
              </button>
            )}
          </div>
        </div>
      </Panel>
      <Panel title="Views">
        {s.views.length === 0 && (
          <Empty>Add a view, or put one of another sheet onto this one.</Empty>
        )}
        {s.views.map((v) => (
          <div key={v.id}>
            <Row item={`view:${v.id}`} name={calledView(v)} chosen={chosen} choose={choose} />
            {chosen === `view:${v.id}` && (
              <ViewForm v={v} drawn={drawn} act={act} choose={choose} tool={tool} hold={hold} />
            )}
          </div>
        ))}
      </Panel>
      <Panel title="Marks" side={<span className="text-sm">{s.marks.length}</span>}>
        {s.marks.length === 0 && <Empty>Nothing is dimensioned yet.</Empty>}
        {s.marks.map((m) => (
          <div key={m.id}>
            <Row item={`mark:${m.id}`} name={called(m)} chosen={chosen} choose={choose} />
            {chosen === `mark:${m.id}` && (
              <MarkForm
                m={m}
                size={drawn.characteristics.find((c) => c.id === m.of?.[0])}
                placing={m.form === "linear" && drawn.placing.includes(m.of?.[0] ?? "")}
                others={notesBeside(m)}
                choose={choose}
                act={act}
              />
            )}
          </div>
        ))}
      </Panel>
      {drawn.loose.length > 0 && (
        <Panel title="Only among the notes">
          <ul>
            {drawn.loose.map((id) => (
              <li key={id} className="flex flex-wrap items-center gap-2 px-4 py-1 text-sm">
                <span className="min-w-24 flex-1">{named(id)}</span>
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`Put ${named(id)} on a view`}
                  onClick={() => act({ do: "put", text: id })}
                >
                  On a view
                </button>
                {drawn.frames.includes(id) && (
                  <button
                    type="button"
                    className="btn btn-xs"
                    aria-label={`Put ${named(id)} in a frame`}
                    title="A frame with the width of the zone and the letter of the datum"
                    onClick={() => act({ do: "frame", text: id })}
                  >
                    In a frame
                  </button>
                )}
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`Remove ${named(id)} from the exercise`}
                  title="Takes it out of the exercise: it is no longer checked"
                  onClick={() => act({ do: "drop", text: id })}
                >
                  Remove
                </button>
              </li>
            ))}
          </ul>
        </Panel>
      )}
      {drawn.touching.length > 0 && (
        <Panel title="In the way">
          <ul className="px-4 py-2 text-sm" aria-label="What is touched">
            {drawn.touching.map((t, i) => (
              <li key={i}>{sentence(t)}</li>
            ))}
          </ul>
        </Panel>
      )}
    </>
  );
}
