import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type Schemas, ask, client } from "../api/client";
import { cx } from "../app/cx";
import { Loading, Panel, Trouble, sentence } from "../controls/notices";

type Audit = Schemas["SheetAudit"];
export type SheetFinding = Schemas["SheetFinding"];
type SheetEvidence = Schemas["SheetEvidence"];
type Refuse = (e: SheetEvidence) => void;

const titles: Record<SheetFinding["kind"], string> = {
  missing: "Missing",
  twice: "Stated twice",
  contradicting: "Contradicting",
  rounded: "Rounded",
  unseen: "Not to be seen",
  unjudged: "Cannot be judged",
  absent: "Absent",
  crowded: "Ill to read",
};

/** What the sheet leaves open or contradicts: students would be marked on what it does not say. */
export const openIn = (a: Audit) =>
  a.findings.filter((f) => f.kind === "missing" || f.kind === "contradicting");

/** In a line, whether a sheet determines its part, or the sheets of a set their assembly. */
export function auditWords(a: Audit, kind = "part") {
  const said = (Object.keys(titles) as SheetFinding["kind"][]).flatMap((kind) => {
    const n = a.findings.filter((f) => f.kind === kind).length;
    return n > 0 ? [`${titles[kind].toLowerCase()}: ${n}`] : [];
  });
  const whole = a.findings.every((f) => f.kind === "crowded");
  const words =
    kind === "part"
      ? "It determines the part."
      : "They determine the parts, and where each stands.";
  return [whole && words, said.length > 0 && sentence(said.join(", "))].filter(Boolean).join(" ");
}

/** What an audit has found, each with its place and what to do about it. */
export function SheetFindings({
  audit,
  chosen,
  actions,
  brief = false,
  refuse,
}: {
  audit: Audit;
  /** The findings alone. */
  brief?: boolean;
  /** Has something not be read from the drawing. */
  refuse?: Refuse | undefined;
  chosen?: string | null;
  actions?: (f: SheetFinding) => ReactNode;
}) {
  return (
    <>
      <ul className="divide-y divide-base-300">
        {audit.findings.map((f, i) => (
          <li
            key={`${i} ${f.kind} ${f.what}`} // two holes can be loose in the same words
            className={cx("px-4 py-1.5 text-sm", chosen === f.what && "bg-base-200")}
          >
            <span className="font-semibold">{titles[f.kind]}.</span>{" "}
            {sentence(`${f.what}; ${f.remedy}`)}
            {actions && <div className="mt-1 flex flex-wrap gap-2">{actions(f)}</div>}
          </li>
        ))}
      </ul>
      {!brief && <Counted audit={audit} refuse={refuse} />}
    </>
  );
}

/** How many sizes a drawing of the part must give, and where they come from. */
function Counted({ audit, refuse }: { audit: Audit; refuse?: Refuse | undefined }) {
  return (
    <>
      <p className="px-4 py-1.5 text-sm">
        Of {audit.sizes} sizes that the drawing must give, {audit.stated} are stated
        {audit.bySymmetry > 0 && ` and ${audit.bySymmetry} taken from symmetry`}.
      </p>
      <Evidence title="What is taken from symmetry" list={audit.symmetric} refuse={refuse} />
      <Evidence title="What else is read from the drawing" list={audit.read} refuse={refuse} />
    </>
  );
}

function Evidence({
  title,
  list,
  refuse,
}: {
  title: string;
  list: SheetEvidence[];
  refuse?: Refuse | undefined;
}) {
  if (list.length === 0) return null;
  return (
    <details className="px-4 pb-2 text-sm">
      <summary className="cursor-pointer">{title}</summary>
      <ul className="flex flex-col gap-1 pt-1">
        {list.map((e) => (
          <li key={e.words} className="flex items-start gap-2">
            <span className="flex-1">{sentence(e.words)}</span>
            {refuse && (
              <button type="button" className="btn btn-xs" onClick={() => refuse(e)}>
                State it instead
              </button>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}

export function useSheetAudit(id: number, version: number) {
  return useQuery({
    queryKey: ["sheet-audit", id, version],
    staleTime: Infinity,
    enabled: version > 0,
    queryFn: () => ask(client.GET("/exercises/{id}/audit", { params: { path: { id } } })),
  });
}

/** Whether the sheet of an exercise determines its part, beside the sheet. */
export function SheetAuditPanel({
  audit,
  kind,
  edit,
}: {
  audit: ReturnType<typeof useSheetAudit>;
  /** Of the exercise. */
  kind: string;
  edit?: (() => void) | undefined;
}) {
  return (
    <Panel
      title={
        kind === "part"
          ? "Does the sheet determine the part?"
          : "Do the sheets determine the assembly?"
      }
      side={
        edit &&
        audit.data &&
        audit.data.findings.some((f) => !f.what.startsWith("item ")) && (
          <button type="button" className="btn btn-xs" onClick={edit}>
            Put it right
          </button>
        )
      }
    >
      {audit.isPending ? (
        <Loading what="what the sheet leaves open" />
      ) : audit.data ? (
        <>
          <p className="px-4 pt-2 text-sm font-semibold" role="status">
            {auditWords(audit.data, kind)}
          </p>
          <SheetFindings audit={audit.data} />
        </>
      ) : (
        <Trouble error={audit.error} retry={() => void audit.refetch()} />
      )}
    </Panel>
  );
}
