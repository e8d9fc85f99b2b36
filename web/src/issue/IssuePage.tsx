import { useMutation, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { type AttemptRow, type IssueDetail, ask, client, queries } from "../api/client";
import { distance, points, stateWords, when } from "../app/format";
import { slowly, useChanges } from "../app/changes";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { ProgressLine } from "../attempt/ProgressLine";
import { underWay, useProgress } from "../attempt/progress";
import { SheetFiles } from "../sheet/SheetFiles";
import { SheetView } from "../sheet/SheetView";
import { useBalloonKeys } from "../sheet/useBalloonKeys";
import { AssembleHere, ModelHere } from "../model/ModelHere";
import { HandIn } from "./HandIn";
import { Questions } from "./Questions";
import { PersonalSheets, ReturnRight, Terms } from "./Terms";
import { Table } from "../controls/Table";

function AttemptsTable({ d, staff }: { d: IssueDetail; staff: boolean }) {
  if (d.attempts.length === 0)
    return <Empty>{staff ? "Nobody has handed in yet." : "Nothing handed in yet."}</Empty>;
  return (
    <Table size="sm">
      <thead>
        <tr>
          {staff && <th>Student</th>}
          <th>Attempt</th>
          <th>Handed in</th>
          <th>In</th>
          <th>State</th>
        </tr>
      </thead>
      <tbody>
        {d.attempts.map((a) => (
          <tr key={a.id} className="hover:bg-base-200">
            {staff && <td>{a.student}</td>}
            <td>
              <Link className="link" to={`/attempts/${a.id}`}>
                {staff ? a.number : `Attempt ${a.number}`}
              </Link>
            </td>
            <td>
              {distance(a.handedIn)}
              {a.late && " (late)"}
            </td>
            <td>{a.of ? `${a.in} of ${a.of}` : "–"}</td>
            <td>
              {stateWords[a.state]}
              {a.points !== undefined && `, ${points(a.points)} of ${points(a.outOf ?? 0)}`}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** What students are told about a changed sheet, the newest first. */
function Notices({ list }: { list: IssueDetail["notices"] }) {
  return (
    <ul className="divide-y divide-base-300 text-sm">
      {list.map((n) => (
        <li key={n.at} className="px-4 py-2">
          <p>{n.text}</p>
          <p className="text-xs">
            {n.revision && `Revision ${n.revision}, `}
            {when(n.at)}
          </p>
        </li>
      ))}
    </ul>
  );
}

/** How the check of an attempt goes on. */
function Check({ attempt }: { attempt: AttemptRow }) {
  const progress = useProgress(attempt.id, attempt.state);
  return (
    progress &&
    underWay(attempt.state) && (
      <div className="px-4 py-3">
        <ProgressLine progress={progress} />
      </div>
    )
  );
}

function Release({ id, released }: { id: number; released: boolean }) {
  const set = useMutation({
    mutationFn: (v: boolean) =>
      ask(client.PUT("/issues/{id}/release", { params: { path: { id } }, body: { released: v } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className="px-4 py-3 text-sm">
      <p>
        {released
          ? "Students see the reference beside their returned attempts."
          : "Students do not see the reference."}
      </p>
      <button
        type="button"
        className="btn btn-sm mt-2"
        disabled={set.isPending}
        onClick={() => set.mutate(!released)}
      >
        {released ? "Withdraw the reference" : "Release the reference"}
      </button>
      {set.error && <Trouble error={set.error} />}
    </div>
  );
}

/** An exercise as issued to a class: the sheet, and handing in or looking through. */
export function IssuePage() {
  const id = Number(useParams().id);
  const [chosen, choose] = useState<string | null>(null);
  const q = useQuery({
    queryKey: ["issue", id],
    queryFn: () => ask(client.GET("/issues/{id}", { params: { path: { id } } })),
    refetchInterval: slowly,
  });
  useChanges();
  useTitle(q.data && `${q.data.issue.title}, ${q.data.issue.className}`);
  const balloons = useMemo(() => q.data?.characteristics.map((c) => c.id), [q.data]);
  useBalloonKeys(balloons, chosen, choose);
  if (q.isPending) return <Loading what="the exercise" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const d = q.data;
  const { staff } = d;
  const last = staff ? undefined : d.attempts.at(-1);
  const picked = d.characteristics.find((c) => c.id === chosen);
  return (
    <div className="grid h-full min-h-0 gap-3 p-3 lg:grid-cols-[1fr_26rem]">
      <section
        className="flex min-h-96 flex-col border border-base-300 bg-base-100"
        aria-label="Sheet"
      >
        <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
          <h1 className="mr-auto">
            {d.issue.title} <span className="text-base font-normal">{d.issue.number}</span>
          </h1>
          {picked && (
            <span className="text-sm" role="status">
              {picked.balloon}: {picked.label}, {picked.places > 1 && `${picked.places} × `}
              {picked.text}
            </span>
          )}
          <SheetFiles path={`issues/${id}`} />
        </div>
        <div className="min-h-0 flex-1">
          <SheetView
            url={`/api/issues/${id}/sheet?version=${d.issue.version}`}
            chosen={chosen}
            choose={choose}
          />
        </div>
      </section>
      <div className="flex min-h-0 flex-col gap-3 overflow-auto [scrollbar-gutter:stable]">
        {d.notices.length > 0 && (
          <Panel title="The sheet was changed">
            <Notices list={d.notices} />
          </Panel>
        )}
        <Panel title="Task">
          <p className="px-4 py-3 text-sm">{d.task}</p>
          <p className="border-t border-base-300 px-4 py-2 text-sm">
            {d.issue.className}. Due {when(d.issue.due)}, {distance(d.issue.due)}.{" "}
            {d.issue.attempts} attempts; results {d.issue.results}
            {d.issue.practice && ", for practice: nothing is marked"}.
            {d.issue.opens && staff && ` Students see it from ${when(d.issue.opens)}.`}
            {d.issue.closed && ` Closed ${when(d.issue.closed)}.`}
            {d.excused && " You are excused from it."}
          </p>
          {d.given && (
            <p className="border-t border-base-300 px-4 py-2 text-sm">
              Some of the parts are given: put them in as they are.{" "}
              <a className="link" href={`/api/issues/${id}/given`} download>
                Download the given parts
              </a>
            </p>
          )}
        </Panel>
        {!staff && (
          <Panel
            title="Hand in"
            side={
              <span className="text-sm">
                {d.left} of {d.issue.attempts} left
              </span>
            }
          >
            <HandIn
              issue={id}
              left={d.left}
              whatIfs={d.whatIfs}
              kind={d.kind}
              unshown={d.unshown}
            />
          </Panel>
        )}
        {!staff && (
          <Panel title="Model it here">
            {d.kind === "assembly" ? (
              <AssembleHere issue={{ id, title: d.issue.title }} />
            ) : (
              <ModelHere issue={{ id, title: d.issue.title }} />
            )}
          </Panel>
        )}
        <Panel
          title={staff ? "Attempts" : "My attempts"}
          side={
            staff && (
              <span className="flex gap-1">
                <Link className="btn btn-xs" to={`/issues/${id}/class`}>
                  Side by side
                </Link>
                <Link className="btn btn-xs" to={`/issues/${id}/rubric`}>
                  Rubric
                </Link>
                <Link className="btn btn-xs" to={`/issues/${id}/recheck`}>
                  Check anew
                </Link>
              </span>
            )
          }
        >
          <AttemptsTable d={d} staff={staff} />
          {last && <Check attempt={last} />}
        </Panel>
        <Questions d={d} chosen={chosen} />
        {d.issue.mayChange && (
          <Panel title="Fully right">
            <ReturnRight id={id} />
          </Panel>
        )}
        {d.issue.mayChange && (
          <Panel title="Terms">
            <Terms key={`${d.issue.due} ${d.issue.opens} ${d.issue.attempts}`} d={d} />
          </Panel>
        )}
        {staff && <PersonalSheets d={d} />}
        {staff && d.missing.length > 0 && (
          <Panel title="Not handed in">
            <p className="px-4 py-2 text-sm">{d.missing.join(", ")}</p>
          </Panel>
        )}
        {d.issue.mayChange && (
          <Panel title="Reference">
            <Release id={id} released={d.issue.released} />
          </Panel>
        )}
      </div>
    </div>
  );
}
