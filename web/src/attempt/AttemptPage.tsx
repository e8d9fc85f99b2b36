import { useMutation, useQuery } from "@tanstack/react-query";
import { Suspense, lazy, useCallback, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { type Attempt as Data, ask, client, queries, type Schemas, Problem } from "../api/client";
import { stateWords, when } from "../app/format";
import { Loading, Panel, PageTrouble, Trouble, sentence } from "../controls/notices";
import { useTab, useTitle } from "../app/place";
import { HandIn } from "../issue/HandIn";
import type { Shown } from "../part/PartView";
import { RemarkOn } from "../review/Remarks";
import { Stepper } from "../review/Stepper";
import { SheetView } from "../sheet/SheetView";
import { useBalloonKeys } from "../sheet/useBalloonKeys";
import { Assembly } from "./Assembly";
import { Marks } from "./Marks";
import { ProgressLine } from "./ProgressLine";
import { useProgress } from "./progress";
import { Reach } from "./Reach";
import { sceneOf } from "./scene";
import { Changes, Characteristics, Findings, Intervals, Sketches, Sweep, Whole } from "./tables";
import { MarkingKeys } from "./MarkingKeys";

const Beside = lazy(() => import("./Beside").then((m) => ({ default: m.Beside })));
const PartView = lazy(() => import("../part/PartView").then((m) => ({ default: m.PartView })));

/** The characteristic that is measured on a face, the one with the fewest faces first. */
function characteristicAt(data: Data, key: Shown["key"], face: Schemas["Ref"]): string | null {
  if (key !== "attempt" && key !== "reference") return null;
  const hits = (data.report?.characteristics ?? []).flatMap((c) => {
    const faces =
      key === "attempt" ? c.places.flatMap((p) => p.attemptFaces ?? []) : (data.faces[c.id] ?? []);
    return faces.includes(face) ? [{ id: c.id, size: faces.length / c.places.length }] : [];
  });
  return hits.sort((a, b) => a.size - b.size)[0]?.id ?? null;
}

function Solids({
  data,
  staff,
  chosen,
  choose,
  lit,
  item,
  pickItem,
}: {
  data: Data;
  staff: boolean;
  chosen: string | null;
  choose: (id: string | null) => void;
  /** The item of an assembly that is brought out. */
  item: string | null;
  pickItem: (item: string) => void;
  /** A finding whose faces are shown. */
  lit: Schemas["Finding"] | null;
}) {
  const id = data.row.id;
  const showReference = staff || data.issue.released;
  const attempt = useQuery({
    queryKey: ["mesh", id],
    staleTime: Infinity,
    queryFn: () => ask(client.GET("/attempts/{id}/mesh", { params: { path: { id } } })),
  });
  const reference = useQuery({
    queryKey: ["reference", data.issue.id],
    staleTime: Infinity,
    enabled: showReference,
    queryFn: () =>
      ask(client.GET("/issues/{id}/reference", { params: { path: { id: data.issue.id } } })),
  });
  const compared = useQuery({
    queryKey: ["compared", id],
    staleTime: Infinity,
    enabled: showReference,
    queryFn: () => ask(client.GET("/attempts/{id}/compared", { params: { path: { id } } })),
  });
  const [beside, setBeside] = useState<"over" | "deviation" | "material">("over");
  const row = data.report?.characteristics.find((c) => c.id === chosen);
  const shown = useMemo(() => {
    const list: Shown[] = [];
    const c = compared.data;
    if (beside === "deviation" && c?.mesh && c.deviation)
      return [
        {
          key: "attempt" as const,
          label: "Attempt",
          mesh: c.mesh,
          faces: [],
          deviation: c.deviation,
        },
      ];
    if (beside === "material") {
      if (c?.tooMuch) list.push({ key: "tooMuch", label: "Too much", mesh: c.tooMuch, faces: [] });
      if (c?.missing) list.push({ key: "missing", label: "Missing", mesh: c.missing, faces: [] });
      if (reference.data)
        list.push({ key: "reference", label: "Reference", mesh: reference.data, faces: [] });
      return list;
    }
    if (attempt.data)
      list.push({
        key: "attempt" as const,
        label: "Attempt",
        mesh: attempt.data,
        faces: lit?.faces ?? row?.places.flatMap((p) => p.attemptFaces ?? []) ?? [],
      });
    if (reference.data)
      list.push({
        key: "reference" as const,
        label: "Reference",
        mesh: reference.data,
        faces: (chosen && data.faces[chosen]) || [],
      });
    return list;
  }, [attempt.data, reference.data, compared.data, beside, row, lit, chosen, data.faces]);
  const scene = useMemo(() => sceneOf(compared.data), [compared.data]);
  if (scene)
    return (
      <Suspense fallback={<Loading what="the view" />}>
        <Beside scene={scene} item={item} pick={pickItem} />
      </Suspense>
    );
  if (attempt.error) return <Trouble error={attempt.error} retry={() => void attempt.refetch()} />;
  if (!attempt.data || (showReference && !reference.data && !reference.error))
    return <Loading what="the solids" />;
  const modes = [
    ["over", "Laid over"],
    ["deviation", "Deviation"],
    ["material", "Too much and missing"],
  ] as const;
  return (
    <div className="flex h-full min-h-0 flex-col">
      {compared.data?.deviation && (
        <div
          role="tablist"
          aria-label="How they are compared"
          className="tabs tabs-border tabs-sm border-b border-base-300"
        >
          {modes.map(
            ([mode, words]) =>
              (mode !== "material" || compared.data?.tooMuch || compared.data?.missing) && (
                <button
                  key={mode}
                  type="button"
                  role="tab"
                  aria-selected={beside === mode}
                  className={`tab ${beside === mode ? "tab-active" : ""}`}
                  onClick={() => setBeside(mode)}
                >
                  {words}
                </button>
              ),
          )}
        </div>
      )}
      <div className="min-h-0 flex-1">
        <Suspense fallback={<Loading what="the view" />}>
          <PartView
            key={beside}
            shown={shown}
            pick={(key, face) => choose(characteristicAt(data, key, face))}
            note={
              lit
                ? `Faces that lie elsewhere than on the sheet: ${lit.faces?.length}`
                : row
                  ? `${row.balloon}: ${row.label}`
                  : beside === "over"
                    ? "Drag to turn, wheel to zoom, click a face to see its balloon"
                    : "Drag to turn, wheel to zoom"
            }
          />
        </Suspense>
      </div>
    </div>
  );
}

/** Handing in again, with what the exercise asks for. */
function Revision({ issue }: { issue: number }) {
  const q = useQuery({
    queryKey: ["issue", issue],
    queryFn: () => ask(client.GET("/issues/{id}", { params: { path: { id: issue } } })),
  });
  if (q.isPending) return <Loading what="the exercise" />;
  if (q.error instanceof Problem && q.error.status === 404)
    return (
      <p className="px-4 py-3 text-sm">
        This exercise is not yours to hand in any more. What you handed in stays here.
      </p>
    );
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  return <HandIn issue={issue} left={q.data.left} whatIfs={q.data.whatIfs} kind={q.data.kind} />;
}

/** Under a finding: the instructor's remark, for the student to read or for staff to write. */
function below(d: Data, staff: boolean, key: string | undefined) {
  if (!key) return null;
  if (staff) return <RemarkOn key={`${d.row.id} ${key}`} data={d} finding={key} />;
  const r = d.remarks.find((x) => x.finding === key);
  return (
    r && (
      <blockquote className="mt-0.5 border-l-4 border-primary pl-3 whitespace-pre-wrap">
        {r.text}
      </blockquote>
    )
  );
}

function NotChecked({ data, staff }: { data: Data; staff: boolean }) {
  const { row } = data;
  const progress = useProgress(row.id, row.state);
  const again = useMutation({
    mutationFn: () =>
      ask(client.POST("/attempts/{id}/check", { params: { path: { id: row.id } } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className="mx-auto flex max-w-3xl flex-col gap-4 p-6">
      {row.state === "queued" || row.state === "checking" ? (
        progress ? (
          <ProgressLine progress={progress} />
        ) : (
          <Loading what="its progress" />
        )
      ) : row.what ? (
        <div role="alert" className="border-l-4 border-error bg-base-100 px-4 py-3">
          <p className="font-semibold">{sentence(row.what)}</p>
          {row.remedy && <p>{sentence(row.remedy)}</p>}
          <p className="mt-1 text-sm">
            The file is kept:{" "}
            <a className="link" href={`/api/attempts/${row.id}/file`}>
              {row.fileName}
            </a>
            . {row.state === "unusable" && "It does not count as an attempt."}
          </p>
        </div>
      ) : (
        <p>
          The attempt is handed in and {stateWords[row.state]}. You will see the result with the
          return.
        </p>
      )}
      {staff && (row.state === "parked" || row.state === "unusable") && (
        <button
          type="button"
          className="btn btn-sm self-start"
          disabled={again.isPending}
          onClick={() => again.mutate()}
        >
          Check again
        </button>
      )}
      {again.error && <Trouble error={again.error} />}
    </div>
  );
}

/** One attempt: the marked sheet beside the solids, and all that was found. */
export function Attempt() {
  const id = Number(useParams().id);
  const [chosen, setChosen] = useState<string | null>(null);
  const solids = useRef<HTMLElement>(null);
  const [lit, setLit] = useState<Schemas["Finding"] | null>(null);
  const choose = useCallback((c: string | null) => {
    setChosen(c);
    setLit(null);
  }, []);
  const [item, setItem] = useState<string | null>(null);
  const [tab, setTab] = useTab(["findings", "table"] as const, "findings");
  const q = useQuery({
    queryKey: ["attempt", id],
    queryFn: () => ask(client.GET("/attempts/{id}", { params: { path: { id } } })),
  });
  useTitle(
    q.data &&
      [q.data.row.student, q.data.row.title, `attempt ${q.data.row.number}`]
        .filter(Boolean)
        .join(", "),
  );
  const staff = q.data?.staff ?? false;
  const report = q.data?.report;
  const balloons = useMemo(() => report?.characteristics.map((c) => c.id), [report]);
  useBalloonKeys(balloons, chosen, choose);
  if (q.isPending) return <Loading what="the attempt" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const d = q.data;
  const pick = (c: string | null) => {
    choose(c);
    if (c) setTab("table");
  };
  // An item leads to the sheet of its part.
  const open = (n: string | null) => {
    setItem(n);
    choose(report?.characteristics.find((c) => n !== null && c.item === n)?.id ?? null);
  };
  return (
    <div className="flex min-h-full flex-col gap-3 p-3">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1>{staff ? d.row.student : d.row.title}</h1>
        <span className="text-sm">
          <Link className="link" to={`/issues/${d.issue.id}`}>
            {d.issue.title}
          </Link>
          , handed in {when(d.row.handedIn)}
          {d.row.late && ", late"}, {stateWords[d.row.state]}
        </span>
        {staff && <Stepper issue={d.issue.id} attempt={id} />}
        {staff && <MarkingKeys />}
        <nav className="ml-auto flex gap-1" aria-label="Attempts">
          {d.siblings.map((s) => (
            <Link
              key={s.id}
              to={`/attempts/${s.id}`}
              className={`btn btn-xs ${s.id === id ? "btn-neutral" : ""}`}
            >
              Attempt {s.number}
            </Link>
          ))}
        </nav>
        <a className="btn btn-xs" href={`/api/attempts/${id}/file`}>
          File
        </a>
        {report && (
          <a className="btn btn-xs" href={`/api/attempts/${id}/sheet?format=svg`}>
            Marked sheet (SVG)
          </a>
        )}
      </div>
      {!report ? (
        <NotChecked data={d} staff={staff} />
      ) : (
        <>
          {d.sizesOf && (
            <p role="note" className="border-l-4 border-warning bg-base-100 px-4 py-2 text-sm">
              This model has the sizes of another student’s sheet throughout: that of {d.sizesOf}.
              By the sheet of {d.row.student} it is wrong. The student is not told whose sizes they
              are.
            </p>
          )}
          {staff && report.attempt.reference && (
            <p role="note" className="border-l-4 border-warning bg-base-100 px-4 py-2 text-sm">
              This is the reference of the exercise itself: the same parameters and steps, drawn at
              the same places. The student is not told.
            </p>
          )}
          <div className="grid h-[34rem] shrink-0 gap-3 lg:grid-cols-[3fr_2fr]">
            <section
              className="min-h-0 border border-base-300 bg-base-100"
              aria-label="Marked sheet"
            >
              <SheetView
                url={`/api/attempts/${id}/sheet?state=${d.row.state}`}
                chosen={chosen}
                choose={pick}
              />
            </section>
            <section
              ref={solids}
              className="min-h-0 border border-base-300 bg-base-100"
              aria-label="Solids"
            >
              <Solids
                data={d}
                staff={staff}
                chosen={chosen}
                choose={pick}
                lit={lit}
                item={item}
                pickItem={open}
              />
            </section>
          </div>
          <div className="grid gap-3 lg:grid-cols-[3fr_2fr]">
            <div className="flex flex-col gap-3">
              <section
                className="border border-base-300 bg-base-100"
                aria-label="Characteristics and findings"
              >
                <div role="tablist" className="tabs tabs-border border-b border-base-300">
                  <button
                    type="button"
                    role="tab"
                    aria-selected={tab === "findings"}
                    className={`tab ${tab === "findings" ? "tab-active" : ""}`}
                    onClick={() => setTab("findings")}
                  >
                    Findings ({report.findings.length})
                  </button>
                  <button
                    type="button"
                    role="tab"
                    aria-selected={tab === "table"}
                    className={`tab ${tab === "table" ? "tab-active" : ""}`}
                    onClick={() => setTab("table")}
                  >
                    Characteristics (
                    {report.characteristics.filter((c) => c.verdict === "in").length} of{" "}
                    {report.characteristics.length} in)
                  </button>
                  <span className="ml-auto self-center pr-3 text-xs opacity-80">
                    <kbd className="kbd kbd-xs">n</kbd> next balloon,{" "}
                    <kbd className="kbd kbd-xs">b</kbd> the one before
                  </span>
                </div>
                {tab === "table" ? (
                  <Characteristics report={report} chosen={chosen} choose={choose} />
                ) : (
                  <Findings
                    report={report}
                    chosen={chosen}
                    choose={choose}
                    lit={lit?.id}
                    light={(f) => {
                      setChosen(null);
                      setLit(lit?.id === f.id ? null : f);
                      solids.current?.scrollIntoView({ block: "nearest" });
                    }}
                    below={(i) => below(d, staff, d.keys[i])}
                  />
                )}
              </section>
              <Assembly
                report={report}
                chosen={chosen}
                choose={choose}
                item={item}
                setItem={open}
              />
              {d.comparedWith !== undefined && (
                <Panel title={`Since attempt ${d.comparedWith}`}>
                  <Changes attempt={d} />
                </Panel>
              )}
            </div>
            <div className="flex flex-col gap-3">
              {d.marks.length > 0 && (
                <Panel title="Marks">
                  <Marks attempt={d} mayMark={staff} mayReturn={q.data.issue.mayChange ?? false} />
                </Panel>
              )}
              {!staff && d.row.state === "returned" && (
                <Panel title="Hand in a revision">
                  <Revision issue={d.issue.id} />
                </Panel>
              )}
              {!report.assembly && (
                <>
                  <Panel title="Whole part">
                    <Whole report={report} staff={staff} />
                  </Panel>
                  <Panel title="Sketches">
                    <Sketches report={report} />
                  </Panel>
                  <Panel title="How far the sketches hold">
                    <Intervals report={report} staff={staff} />
                  </Panel>
                  <Panel title="Varied sizes">
                    <Sweep report={report} />
                  </Panel>
                  {staff && (
                    <Panel title="How far the model follows">
                      <Reach
                        key={d.row.id}
                        attempt={d.row.id}
                        model={report.attempt.kind === "model"}
                      />
                    </Panel>
                  )}
                </>
              )}
              {staff && d.audit.length > 0 && (
                <Panel title="What was done">
                  <ul className="px-4 py-2 text-sm">
                    {d.audit.map((a, i) => (
                      <li key={i}>
                        {when(a.at)}, {a.by}: {a.detail}
                      </li>
                    ))}
                  </ul>
                </Panel>
              )}
            </div>
          </div>
        </>
      )}
    </div>
  );
}
