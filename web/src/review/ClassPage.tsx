import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Verdict as VerdictOf } from "../api/client";
import { points, stateWords } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, sentence } from "../controls/notices";
import { Verdict } from "../app/Verdict";
import { useClassView } from "./useClassView";
import { Table } from "../controls/Table";

const remarkOn = (attempt: number | undefined, key: string) =>
  `/attempts/${attempt}?remark=${encodeURIComponent(key)}`;

/** Whether a finding says the same of all who have it. */
const alike = (g: { each: string[] }) => g.each.every((x) => x === g.each[0]);

/** A class beside one another: what each attempt measures, and what several have in common. */
export function ClassPage() {
  const id = Number(useParams().id);
  const q = useClassView(id);
  useTitle(q.data && `${q.data.issue.title}, ${q.data.issue.className}, side by side`);
  const [key, setKey] = useState<string | null>(null);
  const [openOnly, setOpenOnly] = useState(false);
  /** Come here to look at some beside one another. */
  const [search, setSearch] = useSearchParams();
  const only = search.get("only")?.split(",").map(Number);
  if (q.isPending) return <Loading what="the class" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const d = q.data;
  const rows = d.attempts.filter(
    (a) =>
      (!openOnly || a.row.state === "checked") &&
      (key === null || a.keys.includes(key)) &&
      (!only || only.includes(a.row.id)),
  );
  const unreturned = new Set(
    d.attempts.filter((a) => a.row.state === "checked").map((a) => a.row.id),
  );
  const names = new Map(d.attempts.map((a) => [a.row.id, a.row.student]));
  const common = d.groups.filter((g) => g.attempts.length > 1);
  return (
    <div className="grid h-full min-h-0 gap-3 p-3 lg:grid-cols-[1fr_24rem]">
      <section
        className="flex min-h-96 min-w-0 flex-col border border-base-300 bg-base-100"
        aria-label="Attempts beside one another"
      >
        <div className="flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2">
          <h1 className="mr-auto">
            {d.issue.title} <span className="text-base font-normal">{d.issue.className}</span>
          </h1>
          {only && (
            <button type="button" className="btn btn-xs" onClick={() => setSearch({})}>
              Show all of the class
            </button>
          )}
          <label className="flex items-center gap-1 text-sm">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={openOnly}
              onChange={(e) => setOpenOnly(e.target.checked)}
            />
            only what is to be returned
          </label>
          {key && (
            <button type="button" className="btn btn-xs" onClick={() => setKey(null)}>
              Show all
            </button>
          )}
          <Link className="btn btn-xs" to={`/issues/${id}`}>
            Sheet
          </Link>
        </div>
        {rows.length === 0 ? (
          <Empty>
            {d.attempts.length === 0 ? "Nobody has handed in yet." : "No attempt is like that."}
          </Empty>
        ) : (
          <div className="min-h-0 flex-1 overflow-auto">
            <Table pinned>
              <thead>
                <tr>
                  <th>Student</th>
                  <th>State</th>
                  <th className="text-right">Points</th>
                  {d.characteristics.map((c) => (
                    <th key={c.id} className="text-center" title={`${c.label}, ${c.text}`}>
                      {c.balloon}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((a) => (
                  <tr key={a.row.id} className="hover:bg-base-200">
                    <td className="whitespace-nowrap">
                      <Link className="link" to={`/attempts/${a.row.id}`}>
                        {a.row.student}
                      </Link>
                      {a.row.number > 1 && ` (${a.row.number})`}
                      {a.row.late && ", late"}
                    </td>
                    <td className="whitespace-nowrap">{stateWords[a.row.state]}</td>
                    <td className="text-right whitespace-nowrap">
                      {a.outOf > 0 ? `${points(a.points)} of ${points(a.outOf)}` : "–"}
                    </td>
                    {d.characteristics.map((c) => (
                      <td
                        key={c.id}
                        className="px-1 text-center"
                        title={
                          `${c.balloon} ${c.label}: sheet ${c.text}, ` +
                          `measured ${a.measured[c.id] || "nothing"}`
                        }
                      >
                        {a.verdicts[c.id] ? (
                          <Verdict of={a.verdicts[c.id] as VerdictOf} words={false} />
                        ) : (
                          "–"
                        )}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </Table>
          </div>
        )}
      </section>
      <div className="flex min-h-0 flex-col gap-3 overflow-auto [scrollbar-gutter:stable]">
        <Panel title="Found in several" side={<span className="text-sm">{common.length}</span>}>
          {common.length === 0 ? (
            <Empty>No two students have the same.</Empty>
          ) : (
            <ol className="divide-y divide-base-300 text-sm">
              {common.map((g) => (
                <li key={g.key} className={`px-4 py-2 ${key === g.key ? "bg-base-200" : ""}`}>
                  <button
                    type="button"
                    className="text-left"
                    aria-pressed={key === g.key}
                    onClick={() => setKey(key === g.key ? null : g.key)}
                  >
                    <span className="font-semibold">
                      {g.attempts.length} students{g.balloon ? `, balloon ${g.balloon}` : ""},{" "}
                      {g.where}
                    </span>
                    : {alike(g) ? sentence(g.cause ?? g.what) : "with figures of their own."}
                  </button>
                  {!alike(g) && (
                    <details className="text-xs">
                      <summary className="cursor-pointer">The figures of each</summary>
                      <ul>
                        {g.attempts.map((id, n) => (
                          <li key={id}>
                            {names.get(id)}: {sentence(g.each[n] ?? "")}
                          </li>
                        ))}
                      </ul>
                    </details>
                  )}
                  <p className="text-xs opacity-80">
                    {g.open === 0 ? "all returned" : `${g.open} to return`}
                    {g.open > 0 && (
                      <>
                        .{" "}
                        <Link
                          className="link"
                          to={remarkOn(
                            g.attempts.find((x) => unreturned.has(x)),
                            g.key,
                          )}
                        >
                          Write one remark for all
                        </Link>
                      </>
                    )}
                  </p>
                </li>
              ))}
            </ol>
          )}
        </Panel>
      </div>
    </div>
  );
}
