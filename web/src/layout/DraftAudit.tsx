import { type SheetFinding, SheetFindings, auditWords } from "../exercise/SheetAudit";
import { Panel } from "../controls/notices";
import type { Command, SheetDraft } from "./useSheetDraft";

/** Whether the sheet determines the part as it is now; what is missing is stated by one press. */
export function DraftAudit({
  drawn,
  act,
  show,
}: {
  drawn: SheetDraft;
  /** Not there for who may only look. */
  act?: (c: Command) => void;
  /** Shows on the reference how a face can still move. */
  show?: (f: SheetFinding) => void;
}) {
  return (
    <Panel title="Does the sheet determine the part?">
      <p className="px-4 py-2 text-sm font-semibold" role="status">
        {auditWords(drawn.audit)}
      </p>
      {act && drawn.audit.findings.filter((f) => f.add).length > 1 && (
        <div className="px-4 pt-1">
          <button
            type="button"
            className="btn btn-xs"
            title={
              drawn.sheet.marks.length === 0
                ? "Adds every size that is missing and lays the sheet out"
                : "Adds every size that is missing; what you placed by hand stays"
            }
            onClick={() => act({ do: "propose" })}
          >
            State all that is missing
          </button>
        </div>
      )}
      {drawn.audit.findings.length > 0 && (
        <div className="max-h-56 overflow-auto">
          <SheetFindings
            audit={drawn.audit}
            brief
            actions={(f) => {
              const add = f.add;
              return (
                <>
                  {act && add && (
                    <button
                      type="button"
                      className="btn btn-xs"
                      title={add.label}
                      onClick={() => act({ do: "state", text: add.label })}
                    >
                      State it
                    </button>
                  )}
                  {show && f.motion && (
                    <button type="button" className="btn btn-xs" onClick={() => show(f)}>
                      Show how it moves
                    </button>
                  )}
                </>
              );
            }}
          />
        </div>
      )}
    </Panel>
  );
}
