import { useMemo, useState } from "react";
import type { Mesh } from "../api/client";
import { cx } from "../app/cx";
import { Loading, Trouble, sentence } from "../controls/notices";
import { DraftTrouble, HereAgain, OtherHand } from "../exercise/DraftBar";
import { SheetPaper } from "../sheet/SheetView";
import { AsStudentsSee } from "./AsStudentsSee";
import type { SheetFinding } from "../exercise/SheetAudit";
import { ReferenceBeside } from "./ReferenceBeside";
import { SheetHand } from "./SheetHand";
import { SheetItems } from "./SheetItems";
import { SheetTurner } from "./SheetTurner";
import { DimensionPanel } from "./DimensionPanel";
import { DraftAudit } from "./DraftAudit";
import { type Tool, sides, tools } from "./tools";
import { useDimensioning } from "./useDimensioning";
import { type SheetDraft, useSheetDraft } from "./useSheetDraft";

/** The faces that the chosen marks are measured on. */
function facesOf(drawn: SheetDraft | null, chosen: string | null) {
  const items = chosen?.split(" ") ?? [];
  return (drawn?.sheet.marks ?? [])
    .filter((m) => items.includes(`mark:${m.id}`))
    .flatMap((m) => (m.of ?? []).flatMap((c) => drawn?.faces[c] ?? []));
}

/** The sheet of an exercise, to be laid out by hand. */
export function SheetEditor({
  id,
  version,
  mesh,
}: {
  id: number;
  version: number;
  /** Of the reference, once it is there. */
  mesh: Mesh | undefined;
}) {
  const d = useSheetDraft(id, version);
  const [chosen, choose] = useState<string | null>(null);
  const [tool, setTool] = useState<Tool>("hand");
  const [preview, setPreview] = useState(false);
  /** The reference is shown beside the sheet. */
  const [beside, setBeside] = useState(false);
  const [loose, setLoose] = useState<SheetFinding | null>(null);
  /** The characteristic that is picked in the preview. */
  const [seen, see] = useState<string | null>(null);
  const dim = useDimensioning(d.offers, d.act);
  const chosenFaces = useMemo(() => facesOf(d.drawn, chosen), [d.drawn, chosen]);
  const wiggle = useMemo(
    () => (loose?.motion ? { faces: loose.faces, motion: loose.motion } : null),
    [loose],
  );
  const hold = (t: Tool) => {
    dim.drop();
    choose(null);
    setTool(t);
  };
  if (!d.drawn)
    return d.error ? (
      <div className="flex flex-col items-start gap-2 p-4">
        <Trouble error={d.error} />
        <button type="button" className="btn btn-sm" onClick={d.letGo}>
          Begin from what is saved
        </button>
      </div>
    ) : (
      <Loading what="the sheet" />
    );
  const drawn = d.drawn;
  const { working } = drawn;
  if (!working.mine)
    return (
      <div className="flex h-full min-h-0 flex-col">
        <OtherHand working={working} take={d.take} />
        {d.waiting > 0 && (
          <p className="border-b border-base-300 px-4 py-1.5 text-sm" role="status">
            What you did last was not carried out: it is done when you take the draft over.
          </p>
        )}
        <div className="grid min-h-0 flex-1 lg:grid-cols-[1fr_18rem]">
          <SheetPaper svg={drawn.svg} chosen={seen} choose={see} />
          <div className="flex min-h-0 flex-col overflow-auto border-l border-base-300 p-2">
            <SheetTurner drawn={drawn} turn={d.turn} />
            <DraftAudit drawn={drawn} />
          </div>
        </div>
      </div>
    );
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div
        className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-1.5"
        role="toolbar"
        aria-label="Laying out"
      >
        <div className="join" role="radiogroup" aria-label="What a click does">
          {tools.map((t) => (
            <button
              key={t.tool}
              type="button"
              role="radio"
              aria-checked={tool === t.tool}
              className={cx("btn join-item btn-xs", tool === t.tool && "btn-neutral")}
              title={t.help}
              onClick={() => {
                setPreview(false);
                hold(t.tool);
              }}
            >
              {t.words}
            </button>
          ))}
        </div>
        <select
          className="select select-xs w-auto"
          aria-label="Add a view"
          value=""
          onChange={(e) => d.act({ do: "show", text: e.target.value })}
        >
          <option value="">Add a view …</option>
          {sides.map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </select>
        <SheetTurner
          drawn={drawn}
          turn={(n) => {
            hold(tool);
            d.turn(n);
          }}
        />
        <button type="button" className="btn btn-xs" disabled={working.undo === 0} onClick={d.undo}>
          Undo
        </button>
        <button type="button" className="btn btn-xs" disabled={working.redo === 0} onClick={d.redo}>
          Redo
        </button>
        <button
          type="button"
          className="btn btn-xs"
          disabled={drawn.touching.length === 0}
          title="Moves what is in the way; what you placed by hand stays"
          onClick={() => d.act({ do: "untangle" })}
        >
          Clear the way{drawn.touching.length > 0 && ` (${drawn.touching.length})`}
        </button>
        <button
          type="button"
          className="btn btn-xs"
          title="Numbers the balloons as the sheet is read: view by view, from the top to the foot"
          onClick={() => d.act({ do: "renumber" })}
        >
          Renumber
        </button>
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => d.act({ do: "write", by: [30, 60], text: "Note" })}
        >
          New note
        </button>
        <button
          type="button"
          className={cx("btn btn-xs", preview && "btn-neutral")}
          aria-pressed={preview}
          onClick={() => {
            hold("hand");
            setPreview(!preview);
          }}
        >
          As students see it
        </button>
        <button
          type="button"
          className={cx("btn btn-xs", beside && "btn-neutral")}
          aria-pressed={beside}
          title="The reference in three dimensions, to pick faces on"
          onClick={() => setBeside(!beside)}
        >
          Reference beside it
        </button>
        <div className="ml-auto flex items-center gap-2">
          {d.progress && (
            <span className="flex items-center gap-2 text-sm">
              {sentence(d.progress.stage)}
              <progress
                className="progress w-24"
                value={d.progress.done}
                max={1}
                aria-label={d.progress.stage}
              />
              <button type="button" className="btn btn-xs" onClick={d.cancel}>
                Cancel
              </button>
            </span>
          )}
          <span className="text-sm" role="status">
            {d.busy ? "Drawing …" : d.changed ? "A draft, not saved yet" : "As saved"}
          </span>
          <button
            type="button"
            className="btn btn-xs"
            disabled={!d.changed && d.error === null}
            onClick={d.letGo}
          >
            Begin from what is saved
          </button>
          <button
            type="button"
            className="btn btn-primary btn-xs"
            disabled={!d.changed || d.save.isPending}
            onClick={() => d.save.mutate(false)}
          >
            {d.save.isPending ? "Saving …" : "Save as a new version"}
          </button>
        </div>
      </div>
      {d.again && <HereAgain />}
      {(d.error || d.save.error) && (
        <DraftTrouble error={d.error ?? d.save.error} over={() => d.save.mutate(true)} />
      )}
      {preview ? (
        <AsStudentsSee drawn={drawn} wholeSet={d.wholeSet} chosen={seen} choose={see} />
      ) : (
        <div
          className={cx(
            "grid min-h-0 flex-1",
            beside ? "lg:grid-cols-[1fr_24rem]" : "lg:grid-cols-[1fr_18rem]",
          )}
        >
          <SheetHand
            drawn={drawn}
            chosen={chosen}
            choose={choose}
            act={d.act}
            busy={d.busy}
            tool={tool}
            setTool={hold}
            dim={dim}
            loose={loose}
            undo={d.undo}
            redo={d.redo}
          />
          <div
            className={cx(
              "flex min-h-0 flex-col gap-2 overflow-auto border-l border-base-300 p-2",
              "[scrollbar-gutter:stable]",
            )}
          >
            {beside && (
              <ReferenceBeside
                mesh={mesh}
                faces={dim.picked?.faces ?? chosenFaces}
                wiggle={wiggle}
                pick={(face) => {
                  if (tool !== "dimension") hold("dimension");
                  dim.pickFace(face);
                }}
              />
            )}
            {tool === "dimension" && <DimensionPanel dim={dim} />}
            <DraftAudit
              drawn={drawn}
              act={d.act}
              show={(f) => {
                setBeside(true);
                setLoose({ ...f });
              }}
            />
            <SheetItems
              drawn={drawn}
              chosen={chosen}
              choose={choose}
              act={d.act}
              tool={tool}
              hold={(t) => setTool(tool === t ? "hand" : t)}
            />
          </div>
        </div>
      )}
    </div>
  );
}
