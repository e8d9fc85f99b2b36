import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { ask, client } from "../api/client";
import { distance, points, stateWords, when } from "../app/format";
import { slowly, useChanges } from "../app/changes";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble } from "../controls/notices";
import { Table } from "../controls/Table";

/** How a student stands in each class. */
function Standings() {
  const q = useQuery({
    queryKey: ["home", "standing"],
    queryFn: () => ask(client.GET("/home/standing")),
  });
  const list = (q.data ?? []).filter((s) => s.returned + s.waiting + s.missing > 0);
  if (list.length === 0) return null;
  return (
    <ul className="flex flex-col gap-1" aria-label="How you stand">
      {list.map((s) => (
        <li key={s.className}>
          {s.className}:{" "}
          <strong>{s.percent === undefined ? "no marks yet" : `${points(s.percent)} %`}</strong>
          {s.percent !== undefined && " in the mean"}
          {`, ${s.returned} returned, ${s.waiting} waiting, ${s.open} open`}
          {s.missing > 0 && `, ${s.missing} missing`}.
        </li>
      ))}
    </ul>
  );
}

/** What a student has to do, the soonest due first. */
export function Home() {
  const q = useQuery({
    queryKey: ["home"],
    queryFn: () => ask(client.GET("/home")),
    refetchInterval: slowly,
  });
  useChanges();
  useTitle("My exercises");
  if (q.isPending) return <Loading what="your exercises" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  return (
    <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
      <h1>My exercises</h1>
      <Standings />
      {q.data.length === 0 && (
        <Empty>No exercises yet. They appear here when your instructor issues them.</Empty>
      )}
      {q.data.map(({ issue, attempts, left }) => (
        <Panel
          key={issue.id}
          title={issue.title}
          side={
            <Link className="btn btn-primary btn-sm" to={`/issues/${issue.id}`}>
              Open the sheet
            </Link>
          }
        >
          <p className="px-4 pt-3">
            {`${[issue.number, issue.className].filter(Boolean).join(", ")}. `}
            {`Due ${when(issue.due)}, ${distance(issue.due)}. `}
            {issue.closed
              ? "It is closed."
              : left === 0
                ? "No attempt is left."
                : `${left} of ${issue.attempts} attempts left.`}
            {issue.practice && " For practice: nothing is marked."}
          </p>
          {issue.revised && (
            <p className="px-4 pt-2 text-sm" role="note">
              <strong>
                {`The sheet was changed ${distance(issue.revised.at)}`}
                {issue.revised.revision && ` (revision ${issue.revised.revision})`}.
              </strong>{" "}
              {issue.revised.text}
            </p>
          )}
          {attempts.length === 0 ? (
            <Empty>Nothing handed in yet.</Empty>
          ) : (
            <Table size="sm">
              <tbody>
                {attempts.map((a) => (
                  <tr key={a.id}>
                    <td>
                      <Link className="link" to={`/attempts/${a.id}`}>
                        Attempt {a.number}
                      </Link>
                    </td>
                    <td>{a.fileName}</td>
                    <td>
                      {when(a.handedIn)}
                      {a.late && ", late"}
                    </td>
                    <td>
                      {stateWords[a.state]}
                      {a.points !== undefined &&
                        `, ${points(a.points)} of ${points(a.outOf ?? 0)} points`}
                      {a.points === undefined && a.of ? `, ${a.in} of ${a.of} in` : ""}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          )}
        </Panel>
      ))}
    </div>
  );
}
