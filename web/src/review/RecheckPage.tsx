import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { ask, client, queries } from "../api/client";
import { points, when } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, Trouble, sentence } from "../controls/notices";
import { cx } from "../app/cx";
import { Words } from "./Words";
import { Table } from "../controls/Table";

/** Checking all attempts of an issue against a corrected version, looked at before it counts. */
export function RecheckPage() {
  const id = Number(useParams().id);
  const q = useQuery({
    queryKey: ["recheck", id],
    queryFn: () => ask(client.GET("/issues/{id}/recheck", { params: { path: { id } } })),
    refetchInterval: (x) =>
      x.state.data?.against !== undefined && (x.state.data.done ?? 0) < (x.state.data.all ?? 0)
        ? 1000
        : false,
  });
  useTitle(q.data && `${q.data.title}, checked anew`);
  const done = { onSuccess: () => queries.invalidateQueries() };
  const start = useMutation({
    mutationFn: (version: number) =>
      ask(client.POST("/issues/{id}/recheck", { params: { path: { id } }, body: { version } })),
    ...done,
  });
  const end = useMutation({
    mutationFn: (body: { apply: boolean; text?: string }) =>
      ask(client.PUT("/issues/{id}/recheck", { params: { path: { id } }, body })),
    ...done,
  });
  const revise = useMutation({
    mutationFn: (body: { version: number; text: string }) =>
      ask(client.PUT("/issues/{id}/sheet", { params: { path: { id } }, body })),
    ...done,
  });
  const [words, say] = useState("");
  const [chosen, choose] = useState<number | null>(null);
  if (q.isPending) return <Loading what="the versions" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const d = q.data;
  const under = d.against !== undefined;
  const ready = under && d.done === d.all;
  const moved = d.rows.filter((r) => r.changes.length > 0 || r.before !== r.after);
  return (
    <div className="mx-auto flex max-w-5xl flex-col gap-3 p-3">
      <div className="flex items-center gap-3">
        <h1 className="mr-auto">
          Checking anew <span className="text-base font-normal">{d.title}</span>
        </h1>
        <Link className="btn btn-xs" to={`/issues/${id}`}>
          Sheet
        </Link>
      </div>
      {!under && (
        <Panel title="Versions of the exercise">
          <p className="px-4 pt-3 text-sm">
            Correct the reference or the characteristics as a new version of the exercise; then look
            here what would change before it counts. Attempts that are returned stay as they were
            returned.
          </p>
          <ul className="divide-y divide-base-300 text-sm">
            {d.versions.map((v) => (
              <li key={v.id} className="flex flex-wrap items-center gap-3 px-4 py-2">
                <span className="mr-auto">
                  Version {v.number}, {when(v.created)}
                  {v.alike && v.number !== d.current && ": only the sheet or the marks differ"}
                </span>
                {v.number === d.current ? (
                  <span>in use</span>
                ) : v.alike ? (
                  chosen !== v.id && (
                    <button
                      type="button"
                      className="btn btn-xs"
                      onClick={() => {
                        choose(v.id);
                      }}
                    >
                      Give the class this sheet
                    </button>
                  )
                ) : (
                  <button
                    type="button"
                    className="btn btn-xs"
                    disabled={start.isPending}
                    onClick={() => start.mutate(v.id)}
                  >
                    What would change?
                  </button>
                )}
                {v.alike && chosen === v.id && (
                  <div className="flex w-full flex-col gap-2">
                    <Words text={words} say={say} />
                    <div className="flex gap-2">
                      <button
                        type="button"
                        className="btn btn-primary btn-sm"
                        disabled={revise.isPending}
                        onClick={() => revise.mutate({ version: v.id, text: words })}
                      >
                        {revise.isPending
                          ? "Drawing the sheet …"
                          : "Change the sheet and tell the class"}
                      </button>
                      <button
                        type="button"
                        className="btn btn-sm"
                        onClick={() => {
                          choose(null);
                        }}
                      >
                        Not now
                      </button>
                    </div>
                    {revise.error && <Trouble error={revise.error} />}
                  </div>
                )}
              </li>
            ))}
          </ul>
          {d.versions.length === 1 && (
            <p className="border-t border-base-300 px-4 py-2 text-sm">
              There is one version only.{" "}
              <Link className="link" to={`/exercises/${d.exercise}`}>
                Open the exercise
              </Link>{" "}
              to make another: work on the reference, or bring a new version in as a zip.
            </p>
          )}
          {start.error && <Trouble error={start.error} />}
        </Panel>
      )}
      {under && (
        <Panel
          title={`Against version ${d.against}`}
          side={
            <span className="text-sm">
              {ready ? `${moved.length} of ${d.all} would change` : `${d.done} of ${d.all} checked`}
            </span>
          }
        >
          {ready && (
            <div className="px-4 pt-3">
              <Words text={words} say={say} />
            </div>
          )}
          <div className="flex flex-wrap items-center gap-3 px-4 py-3">
            {!ready && (
              <progress
                className="progress progress-primary flex-1"
                aria-label="Checking"
                value={d.done}
                max={d.all}
              />
            )}
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={!ready || end.isPending}
              onClick={() => end.mutate({ apply: true, text: words })}
            >
              Let it count
            </button>
            <button
              type="button"
              className="btn btn-sm"
              disabled={end.isPending}
              onClick={() => end.mutate({ apply: false })}
            >
              Drop it
            </button>
            {end.error && <Trouble error={end.error} />}
          </div>
          {d.rows.length === 0 ? (
            <Empty>There is no attempt that is not returned.</Empty>
          ) : (
            <Table>
              <thead>
                <tr>
                  <th>Student</th>
                  <th>What would change</th>
                  <th className="text-right">Now</th>
                  <th className="text-right">Then</th>
                </tr>
              </thead>
              <tbody>
                {d.rows.map((r) => (
                  <tr key={r.attempt}>
                    <td className="whitespace-nowrap">
                      <Link className="link" to={`/attempts/${r.attempt}`}>
                        {r.student}
                      </Link>{" "}
                      ({r.number})
                    </td>
                    <td>
                      {r.reason ? (
                        sentence(r.reason)
                      ) : r.after === undefined ? (
                        r.state === "running" ? (
                          "being checked"
                        ) : (
                          "waits"
                        )
                      ) : r.changes.length === 0 ? (
                        "nothing"
                      ) : (
                        <ul>
                          {r.changes.map((c) => (
                            <li key={c.balloon}>
                              {c.balloon} {c.label}: {c.before} becomes {c.after}
                            </li>
                          ))}
                        </ul>
                      )}
                    </td>
                    <td className="text-right">
                      {r.before === undefined ? "–" : points(r.before)}
                    </td>
                    <td
                      className={cx(
                        "text-right",
                        r.after !== undefined &&
                          r.after !== r.before &&
                          "font-semibold text-primary",
                      )}
                    >
                      {r.after === undefined ? "–" : points(r.after)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          )}
        </Panel>
      )}
    </div>
  );
}
