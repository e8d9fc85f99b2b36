import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import { cx } from "../app/cx";
import { points, when } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { Table } from "../controls/Table";
import { useOutside } from "../telling/messages";

type Book = Schemas["Gradebook"];
type Cell = Schemas["BookCell"];
type Issue = Schemas["BookIssue"];

/** What stands in a cell that has no points, and whether it is only for now. */
const words: Record<Cell["state"], string> = {
  returned: "",
  waiting: "waits",
  unusable: "not usable",
  missing: "missing, 0",
  open: "–",
  excused: "excused",
  "not for": "not for",
  before: "joined later",
};

function CellText({ cell }: { cell: Cell }) {
  if (cell.state !== "returned") return words[cell.state];
  return (
    <>
      {points(cell.points ?? 0)} of {points(cell.outOf ?? 0)}
      <span className="block text-xs">
        {points(cell.percent ?? 0)} %{cell.late && ", late"}
        {cell.attempts > 1 && `, ${cell.attempts} attempts`}
      </span>
    </>
  );
}

function Row({ row }: { row: Schemas["BookRow"] }) {
  return (
    <tr>
      <th scope="row" className="bg-base-100 font-normal">
        {row.name}
        {row.left && <span className="block text-xs">left {when(row.left)}</span>}
      </th>
      <td className="whitespace-nowrap text-right font-semibold">
        {row.percent === undefined ? "–" : `${points(row.percent)} %`}
      </td>
      {row.cells.map((c, i) => (
        <td
          key={i}
          className={cx(
            "whitespace-nowrap",
            c.state !== "returned" && c.state !== "missing" && "opacity-80 italic",
          )}
          data-cell={c.state}
        >
          {c.attemptId ? (
            <Link className="link-hover link" to={`/attempts/${c.attemptId}`}>
              <CellText cell={c} />
            </Link>
          ) : (
            <CellText cell={c} />
          )}
        </td>
      ))}
    </tr>
  );
}

/** What an exercise weighs in the mean. */
function Weight({ issue }: { issue: Issue }) {
  const [weight, set] = useState(String(issue.weight));
  const weigh = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/issues/{id}/weight", {
          params: { path: { id: issue.id } },
          body: { weight: Number(weight) },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["gradebook"] }),
  });
  const keep = () => {
    if (weight.trim() !== "" && Number(weight) !== issue.weight) weigh.mutate();
  };
  return (
    <>
      <input
        type="number"
        min={0}
        max={100}
        step="any"
        className="input input-xs w-16 print:border-none"
        aria-label={`Weight of ${issue.title}`}
        value={weight}
        onChange={(e) => set(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && keep()}
      />
      {weigh.error && <Trouble error={weigh.error} />}
    </>
  );
}

/** How the percents of an exercise are spread: a column for every tenth. */
function Spread({ issue }: { issue: Issue }) {
  const most = Math.max(1, ...issue.spread);
  const said = issue.spread
    .map((n, i) => n > 0 && `${n} from ${i * 10} to ${i * 10 + 10} %`)
    .filter(Boolean)
    .join(", ");
  return (
    <svg viewBox="0 0 220 92" className="w-full max-w-72" role="img" aria-label={said || "nobody"}>
      {issue.spread.map((n, i) => (
        <g key={i}>
          <rect
            x={i * 21 + 6}
            width={17}
            y={72 - (56 * n) / most}
            height={(56 * n) / most}
            className="fill-primary"
          />
          {n > 0 && (
            <text
              x={i * 21 + 14.5}
              y={68 - (56 * n) / most}
              textAnchor="middle"
              className="fill-current text-[9px]"
            >
              {n}
            </text>
          )}
        </g>
      ))}
      <line x1={2} x2={218} y1={72.5} y2={72.5} className="stroke-current" strokeWidth={1} />
      {[0, 50, 100].map((p) => (
        <text
          key={p}
          x={5 + p * 2.1}
          y={86}
          textAnchor={p === 0 ? "start" : p === 100 ? "end" : "middle"}
          className="fill-current text-[9px]"
        >
          {p} %
        </text>
      ))}
    </svg>
  );
}

function Exercise({ issue }: { issue: Issue }) {
  return (
    <section
      className="flex break-inside-avoid flex-col gap-1 border border-base-300 p-3 text-sm"
      aria-label={issue.title}
    >
      <h3>
        <Link className="link" to={`/issues/${issue.id}`}>
          {issue.title}
        </Link>
      </h3>
      {issue.count === 0 ? (
        <p>Nothing is returned yet.</p>
      ) : (
        <>
          <p>
            {issue.count} counted, mean {points(issue.mean)} %, median {points(issue.median)} %.
          </p>
          <Spread issue={issue} />
        </>
      )}
      {issue.wrong.length > 0 && (
        <>
          <p className="font-semibold">Wrong most often, in the newest attempts</p>
          <ol>
            {issue.wrong.map((w) => (
              <li key={`${w.balloon} ${w.label}`}>
                Balloon {w.balloon}, {w.label}: {w.students}
              </li>
            ))}
          </ol>
        </>
      )}
    </section>
  );
}

function Files({ id, count }: { id: number; count: "best" | "last" }) {
  const path = (format: string) =>
    `/api/classes/${id}/gradebook/file?format=${format}&count=${count}`;
  const outside = useOutside();
  const send = useMutation({
    mutationFn: () =>
      ask(
        client.POST("/classes/{id}/gradebook/platform", {
          params: { path: { id }, query: { count } },
        }),
      ),
  });
  return (
    <span className="flex flex-wrap gap-1 print:hidden">
      <a className="btn btn-xs" href={path("csv")}>
        CSV
      </a>
      <a className="btn btn-xs" href={path("xlsx")}>
        Workbook (xlsx)
      </a>
      <a className="btn btn-xs" href={path("oneroster")}>
        Results (OneRoster)
      </a>
      {outside.data?.platform && (
        <button
          type="button"
          className="btn btn-xs"
          disabled={send.isPending}
          onClick={() => send.mutate()}
        >
          Send to the platform
        </button>
      )}
      <button type="button" className="btn btn-xs" onClick={() => window.print()}>
        Print
      </button>
      {send.isSuccess && <span role="status">The platform has taken them.</span>}
      {send.error && <Trouble error={send.error} />}
    </span>
  );
}

/** What the students of a class were given. */
export function GradebookPage() {
  const id = Number(useParams().id);
  const [query, setQuery] = useSearchParams();
  const count = query.get("count") === "best" ? "best" : "last";
  const q = useQuery({
    queryKey: ["gradebook", id, count],
    queryFn: () =>
      ask(client.GET("/classes/{id}/gradebook", { params: { path: { id }, query: { count } } })),
  });
  useTitle(q.data && `Gradebook, ${q.data.class.name}`);
  if (q.isPending) return <Loading what="the gradebook" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  return (
    <Shown
      id={id}
      book={q.data}
      count={count}
      choose={(c) => setQuery(c === "best" ? { count: c } : {}, { replace: true })}
    />
  );
}

function Shown({
  id,
  book,
  count,
  choose,
}: {
  id: number;
  book: Book;
  count: "last" | "best";
  choose: (count: string) => void;
}) {
  return (
    <div className="mx-auto flex max-w-7xl flex-col gap-4 p-4">
      <h1>
        Gradebook,{" "}
        <Link className="link" to={`/classes/${id}`}>
          {book.class.name}
        </Link>{" "}
        <span className="text-base font-normal">{book.class.year}</span>
      </h1>
      <Panel
        title="Points"
        side={
          <span className="flex flex-wrap items-center gap-3 text-sm">
            <label className="flex items-center gap-1">
              Of several attempts counts
              <select
                className="select select-xs w-28"
                value={count}
                onChange={(e) => choose(e.target.value)}
              >
                <option value="last">the last</option>
                <option value="best">the best</option>
              </select>
            </label>
            <Files id={id} count={count} />
          </span>
        }
      >
        {book.students.length + book.left.length === 0 || book.issues.length === 0 ? (
          <Empty>There is nothing to book yet: issue an exercise to a class with students.</Empty>
        ) : (
          <div className="overflow-x-auto">
            <Table label="Gradebook">
              <thead>
                <tr>
                  <th>Student</th>
                  <th className="text-right">Mean</th>
                  {book.issues.map((i) => (
                    <th key={i.id}>
                      <Link className="link" to={`/issues/${i.id}`}>
                        {i.title}
                      </Link>
                    </th>
                  ))}
                </tr>
                <tr>
                  <th scope="row">Weight</th>
                  <td />
                  {book.issues.map((i) => (
                    <td key={i.id}>
                      <Weight key={i.weight} issue={i} />
                    </td>
                  ))}
                </tr>
              </thead>
              <tbody>
                {[...book.students, ...book.left].map((s) => (
                  <Row key={s.id} row={s} />
                ))}
              </tbody>
            </Table>
          </div>
        )}
        <p className="border-t border-base-300 px-4 py-2 text-sm">
          Percents are of all points of an exercise. What is returned counts; what waits is in
          italics and does not yet. Who handed in nothing has 0 once an exercise is closed. Excused
          and withdrawn exercises, practice, and what was due before a student joined do not count.
          Who has left is in no mean and no chart.
        </p>
      </Panel>
      {book.issues.length > 0 && (
        <Panel title="By exercise">
          <div className="grid gap-3 p-4 sm:grid-cols-2 lg:grid-cols-3">
            {book.issues.map((i) => (
              <Exercise key={i.id} issue={i} />
            ))}
          </div>
        </Panel>
      )}
    </div>
  );
}
