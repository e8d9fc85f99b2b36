import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { type Desk as DeskData, type Me, ask, client } from "../api/client";
import { distance, when } from "../app/format";
import { slowly, useChanges } from "../app/changes";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, sentence } from "../controls/notices";
import { Table } from "../controls/Table";
import { teaches } from "../session/session";

/** What waits for a person, a line an exercise. */
function Waiting({ rows }: { rows: DeskData["waiting"] }) {
  if (rows.length === 0) return <Empty>Nothing waits for a look.</Empty>;
  return (
    <Table size="sm">
      <thead>
        <tr>
          <th>Exercise</th>
          <th className="text-right">Waiting</th>
          <th>Of these</th>
          <th>Since</th>
          <th>
            <span className="sr-only">Begin</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((w) => (
          <tr key={w.issueId} className="hover:bg-base-200">
            <td>
              <Link className="link font-semibold" to={`/issues/${w.issueId}`}>
                {w.title}
              </Link>
              <br />
              {w.className}
            </td>
            <td className="text-right text-base font-semibold">{w.count}</td>
            <td>{ofThese(w)}</td>
            <td className="whitespace-nowrap">{distance(w.oldest)}</td>
            <td className="text-right">
              <Link
                className="btn btn-sm"
                aria-label={`Begin with ${w.title}, ${w.className}`}
                to={`/attempts/${w.attemptId}`}
              >
                Begin
              </Link>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

function ofThese(w: DeskData["waiting"][number]) {
  const parts = [
    w.asks > 0 && `${w.asks} ask for a look`,
    w.parked > 0 && `${w.parked} could not be checked`,
    w.right > 0 && `${w.right} with everything in`,
    w.late > 0 && `${w.late} late`,
  ];
  return parts.filter(Boolean).join(", ") || "–";
}

const places = { attempt: "attempts", exercise: "exercises", model: "models" } as const;

/** Where somebody has stopped, to go on there. */
function Stopped({ list }: { list: DeskData["stopped"] }) {
  if (list.length === 0) return <Empty>You have not begun with anything yet.</Empty>;
  return (
    <ul className="divide-y divide-base-300 text-sm">
      {list.map((s) => (
        <li key={s.kind} className="px-4 py-2">
          <Link className="link" to={`/${places[s.kind]}/${s.id}`}>
            {s.student ? `${s.title}, ${s.student}` : s.title}
          </Link>
          , {s.kind}, {distance(s.at)}
        </li>
      ))}
    </ul>
  );
}

function Due({ rows }: { rows: DeskData["due"] }) {
  if (rows.length === 0)
    return <Empty>Nothing is due. Open one under “Exercises” and issue it to a class.</Empty>;
  return (
    <ul className="divide-y divide-base-300">
      {rows.map((i) => (
        <li key={i.id} className="px-4 py-2">
          <div className="flex justify-between gap-2">
            <Link className="link font-semibold" to={`/issues/${i.id}`}>
              {i.title}
            </Link>
            <span>{distance(i.due)}</span>
          </div>
          <p className="text-sm">
            {i.className}, due {when(i.due)}. {i.handedIn} of {i.students} have handed in.
          </p>
        </li>
      ))}
    </ul>
  );
}

function Odd({ rows }: { rows: DeskData["odd"] }) {
  if (rows.length === 0) return <Empty>Nothing looks odd.</Empty>;
  return (
    <ul className="divide-y divide-base-300 text-sm">
      {rows.map((o, i) => (
        <li key={i} className="px-4 py-2">
          <Link
            className="link"
            to={o.attemptId ? `/attempts/${o.attemptId}` : `/issues/${o.issueId}`}
          >
            {o.what}
          </Link>
          {o.why && <p>{sentence(o.why)}</p>}
          {o.otherId && (
            <Link
              className="link"
              to={`/issues/${o.issueId}/class?only=${o.attemptId},${o.otherId}`}
            >
              Both beside one another
            </Link>
          )}
        </li>
      ))}
    </ul>
  );
}

/** What an instructor does first in an empty school, a step after the other. */
function FirstSteps({ desk }: { desk: DeskData }) {
  const exercises = useQuery({
    queryKey: ["exercises"],
    queryFn: () => ask(client.GET("/exercises")),
  });
  const students = desk.classes.reduce((n, c) => n + c.students, 0);
  const first = desk.classes[0];
  const steps = [
    { done: desk.classes.length > 0, what: "Make a class", to: "/classes" },
    {
      done: students > 0,
      what: "Add its students",
      to: first ? `/classes/${first.id}` : "/classes",
    },
    {
      done: (exercises.data?.length ?? 0) > 0,
      what: "Bring in an exercise, or begin one with its reference",
      to: "/exercises",
    },
    {
      done: desk.due.length > 0,
      what: "Issue it to the class",
      to: exercises.data?.[0] ? `/exercises/${exercises.data[0].id}` : "/exercises",
    },
  ];
  const next = steps.findIndex((s) => !s.done);
  return (
    <Panel title="First steps">
      <ol className="flex flex-col gap-1 px-4 py-3">
        {steps.map((s, i) => (
          <li key={s.what} className="flex items-center gap-2">
            <span aria-hidden className="w-5 text-center">
              {s.done ? "✓" : i + 1}
            </span>
            {i === next ? (
              <Link className="link font-semibold" to={s.to}>
                {s.what}
              </Link>
            ) : (
              <span className={s.done ? "opacity-80" : ""}>
                {s.what}
                {s.done && <span className="sr-only">, done</span>}
              </span>
            )}
          </li>
        ))}
      </ol>
    </Panel>
  );
}

/** The instructor's first screen: what waits, what is due, what looks odd. */
export function Desk({ me }: { me: Me }) {
  const desk = useQuery({
    queryKey: ["desk"],
    queryFn: () => ask(client.GET("/desk")),
    refetchInterval: slowly,
  });
  useChanges();
  useTitle("Desk");
  if (desk.isPending) return <Loading what="the desk" />;
  if (!desk.data) return <PageTrouble error={desk.error} retry={() => void desk.refetch()} />;
  const d = desk.data;
  const due = d.due.filter((i) => new Date(i.due).getTime() > desk.dataUpdatedAt);
  return (
    <div className="mx-auto grid max-w-7xl gap-4 p-4 lg:grid-cols-[1fr_22rem]">
      <h1 className="sr-only">Desk</h1>
      <div className="flex flex-col gap-4">
        {teaches(me) && d.due.length === 0 && <FirstSteps desk={d} />}
        <Panel
          title="Waits for a look"
          side={
            <span className="text-sm">
              {d.waiting.reduce((n, w) => n + w.count, 0)} attempts
              {d.checking > 0 && `; ${d.checking} more are being checked`}
            </span>
          }
        >
          <Waiting rows={d.waiting} />
        </Panel>
        <Panel title="Looks odd" side={<span className="text-sm">{d.odd.length}</span>}>
          <Odd rows={d.odd} />
        </Panel>
      </div>
      <div className="flex flex-col gap-4">
        <Panel title="Where you stopped">
          <Stopped list={d.stopped} />
        </Panel>
        <Panel title="Due" side={<span className="text-sm">{due.length}</span>}>
          <Due rows={due} />
        </Panel>
        <Panel title="Classes">
          {d.classes.length === 0 ? (
            <Empty>You teach no class yet.</Empty>
          ) : (
            <ul className="divide-y divide-base-300">
              {d.classes
                .filter((c) => !c.archived)
                .map((c) => (
                  <li key={c.id} className="flex justify-between px-4 py-2">
                    <Link className="link" to={`/classes/${c.id}`}>
                      {c.name}
                    </Link>
                    <span className="text-sm">{c.students} students</span>
                  </li>
                ))}
            </ul>
          )}
        </Panel>
      </div>
    </div>
  );
}
