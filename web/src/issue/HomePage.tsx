import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { type Schemas, ask, client } from "../api/client";
import { distance, points, stateWords, when } from "../app/format";
import { slowly, useChanges } from "../app/changes";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble } from "../controls/notices";
import { Table } from "../controls/Table";

/** How a student stands in each class. */
function Standings({ all }: { all: Schemas["Standing"][] }) {
  const list = all.filter((s) => s.returned + s.waiting + s.missing > 0);
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

type Task = Schemas["Task"];

/** What there is to know of an exercise beside its sheet. */
function notes({ issue, attempts, left, excused, before }: Task) {
  return [
    excused && "You are excused from it.",
    before && attempts.length === 0 && "It was due before you joined: it does not count.",
    issue.closed
      ? "It is closed."
      : left === 0
        ? "No attempt is left."
        : `${left} of ${issue.attempts} attempts left.`,
    issue.practice && "For practice: nothing is marked.",
  ]
    .filter(Boolean)
    .join(" ");
}

function Result({ of: a }: { of: Schemas["AttemptRow"] }) {
  return (
    <>
      {stateWords[a.state]}
      {a.points !== undefined && `, ${points(a.points)} of ${points(a.outOf ?? 0)} points`}
      {a.points === undefined && a.of ? `, ${a.in} of ${a.of} in` : ""}
    </>
  );
}

function AttemptLink({ of: a }: { of: Schemas["AttemptRow"] }) {
  return (
    <Link className="link" to={`/attempts/${a.id}`}>
      Attempt {a.number}
    </Link>
  );
}

function Changed({ issue }: { issue: Task["issue"] }) {
  if (!issue.revised) return null;
  return (
    <p className="px-4 pt-2 text-sm" role="note">
      <strong>
        {`The sheet was changed ${distance(issue.revised.at)}`}
        {issue.revised.revision && ` (revision ${issue.revised.revision})`}.
      </strong>{" "}
      {issue.revised.text}
    </p>
  );
}

/** An exercise that something is to be handed in for. */
function ToDo({ task }: { task: Task }) {
  const { issue, attempts } = task;
  return (
    <Panel
      title={issue.title}
      side={
        <Link className="btn btn-primary btn-sm" to={`/issues/${issue.id}`}>
          Open the sheet
        </Link>
      }
    >
      <p className="px-4 pt-3">
        {`${[issue.number, issue.className].filter(Boolean).join(", ")}. `}
        {`Due ${when(issue.due)}, ${distance(issue.due)}. ${notes(task)}`}
      </p>
      <Changed issue={issue} />
      {attempts.length === 0 ? (
        <Empty>Nothing handed in yet.</Empty>
      ) : (
        <Table size="sm">
          <tbody>
            {attempts.map((a) => (
              <tr key={a.id}>
                <td>
                  <AttemptLink of={a} />
                </td>
                <td>{a.fileName}</td>
                <td>
                  {when(a.handedIn)}
                  {a.late && ", late"}
                </td>
                <td>
                  <Result of={a} />
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </Panel>
  );
}

/** The exercises for which nothing is to be handed in any more, a line each. */
function Over({ tasks }: { tasks: Task[] }) {
  return (
    <Panel title="Earlier exercises">
      <Table size="sm">
        <thead>
          <tr>
            <th>Exercise</th>
            <th>Due</th>
            <th>Handed in</th>
          </tr>
        </thead>
        <tbody>
          {tasks.map((t) => (
            <tr key={t.issue.id} className="align-top">
              <td>
                <Link className="link" to={`/issues/${t.issue.id}`}>
                  {t.issue.title}
                </Link>
                <span className="block text-xs">
                  {[t.issue.number, t.issue.className].filter(Boolean).join(", ")}
                </span>
              </td>
              <td>
                {when(t.issue.due)}
                <span className="block text-xs">{notes(t)}</span>
              </td>
              <td>
                {t.attempts.length === 0 && "Nothing"}
                <ul>
                  {t.attempts.map((a) => (
                    <li key={a.id}>
                      <AttemptLink of={a} />
                      {a.late && ", late"}: <Result of={a} />
                    </li>
                  ))}
                </ul>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Panel>
  );
}

/** What a student was given: what is to do, the soonest due first, and what is over. */
export function Home() {
  const q = useQuery({
    queryKey: ["home"],
    queryFn: () => ask(client.GET("/home")),
    refetchInterval: slowly,
  });
  const standing = useQuery({
    queryKey: ["home", "standing"],
    queryFn: () => ask(client.GET("/home/standing")),
  });
  useChanges();
  useTitle("My exercises");
  // Both are waited for, so that nothing moves under the hand.
  if (q.isPending || standing.isPending) return <Loading what="your exercises" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const over = q.data.filter((t) => !t.toDo);
  return (
    <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
      <h1>My exercises</h1>
      <Standings all={standing.data ?? []} />
      {q.data.length === 0 && (
        <Empty>No exercises yet. They appear here when your instructor issues them.</Empty>
      )}
      {over.length > 0 && over.length === q.data.length && (
        <Empty>Nothing is to be handed in at the moment.</Empty>
      )}
      {q.data.map((t) => t.toDo && <ToDo key={t.issue.id} task={t} />)}
      {over.length > 0 && <Over tasks={over} />}
    </div>
  );
}
