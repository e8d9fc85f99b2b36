import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import {
  type AttemptRow,
  type Desk as DeskData,
  type Me,
  ask,
  client,
  queries,
  sendFile,
  type Exercise,
} from "../api/client";
import { distance, stateWords, when } from "../app/format";
import { slowly, useChanges } from "../app/changes";
import { useTitle } from "../app/place";
import { useKept } from "../app/keep";
import { Empty, Loading, Panel, Trouble } from "../controls/notices";
import { FileButton } from "../controls/FileInput";
import { Table } from "../controls/Table";

function Waiting({ rows }: { rows: AttemptRow[] }) {
  const [all, setAll] = useState(false);
  if (rows.length === 0) return <Empty>Nothing waits for a look.</Empty>;
  const shown = all ? rows : rows.slice(0, 12);
  return (
    <>
      <Table size="sm">
        <thead>
          <tr>
            <th>Student</th>
            <th>Exercise</th>
            <th>Attempt</th>
            <th>Handed in</th>
            <th>In</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((a) => (
            <tr key={a.id} className="hover:bg-base-200">
              <td>
                <Link className="link" to={`/attempts/${a.id}`}>
                  {a.student}
                </Link>
              </td>
              <td>{a.title}</td>
              <td>{a.number}</td>
              <td>
                {distance(a.handedIn)}
                {a.late && " (late)"}
              </td>
              <td>{a.of ? `${a.in} of ${a.of}` : "–"}</td>
              <td>{stateWords[a.state]}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {rows.length > shown.length && (
        <button type="button" className="btn btn-ghost btn-sm w-full" onClick={() => setAll(true)}>
          Show all {rows.length}
        </button>
      )}
    </>
  );
}

function NewClass() {
  const { value: name, set, drop } = useKept("new-class", "");
  const go = useNavigate();
  const make = useMutation({
    mutationFn: () => ask(client.POST("/classes", { body: { name } })),
    onSuccess: (c) => {
      drop("");
      void queries.invalidateQueries();
      void go(`/classes/${c.id}`);
    },
  });
  return (
    <form
      className="flex flex-wrap gap-2 border-t border-base-300 px-4 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <input
        className="input input-sm min-w-0 flex-1"
        aria-label="Name of a new class"
        placeholder="a new class"
        required
        maxLength={100}
        value={name}
        onChange={(e) => set(e.target.value)}
      />
      <button type="submit" className="btn btn-sm" disabled={make.isPending}>
        Make it
      </button>
      {make.error && <Trouble error={make.error} />}
    </form>
  );
}

function Due({ rows }: { rows: DeskData["due"] }) {
  if (rows.length === 0)
    return (
      <Empty>No exercise is issued. Open one under “Exercises” and issue it to a class.</Empty>
    );
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
          {o.why && <p>{o.why}</p>}
        </li>
      ))}
    </ul>
  );
}

function ImportButton() {
  const go = useNavigate();
  const take = useMutation({
    mutationFn: (f: File) => sendFile<Exercise>("/api/exercises", f, () => undefined).done,
    onSuccess: (e) => void go(`/exercises/${e.id}`),
  });
  return (
    <FileButton
      accept=".zip,.step,.stp,.p21,.json"
      label="Exercise as a zip, or a reference alone"
      className="btn btn-sm"
      name="Import or begin an exercise"
      busy="Drawing its sheet …"
      sending={take}
      take={(f) => take.mutate(f)}
    />
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
  if (!desk.data)
    return (
      <div className="p-6">
        <Trouble error={desk.error} retry={() => void desk.refetch()} />
      </div>
    );
  const d = desk.data;
  return (
    <div className="mx-auto grid max-w-7xl gap-4 p-4 lg:grid-cols-[1fr_22rem]">
      <h1 className="sr-only">Desk</h1>
      <div className="flex flex-col gap-4">
        <Panel
          title="Waits for a look"
          side={
            <span className="text-sm">
              {d.waiting.length}
              {d.checking > 0 && `, ${d.checking} being checked`}
            </span>
          }
        >
          <Waiting rows={d.waiting} />
        </Panel>
        <Panel title="Exercises" side={me.role !== "assistant" && <ImportButton />}>
          {d.exercises.length === 0 ? (
            <Empty>
              There is no exercise yet. Import one as a zip of open files, or begin one with its
              reference alone: a STEP file or a model document.
            </Empty>
          ) : (
            <Table size="sm">
              <thead>
                <tr>
                  <th>Number</th>
                  <th>Title</th>
                  <th>Version</th>
                  <th>Issued</th>
                </tr>
              </thead>
              <tbody>
                {d.exercises.map((e) => (
                  <tr key={e.id} className="hover:bg-base-200">
                    <td>{e.number}</td>
                    <td>
                      <Link className="link" to={`/exercises/${e.id}`}>
                        {e.title}
                      </Link>
                    </td>
                    <td>{e.version}</td>
                    <td>
                      {e.issues === 0 ? "not yet" : `${e.issues} time${e.issues > 1 ? "s" : ""}`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          )}
        </Panel>
      </div>
      <div className="flex flex-col gap-4">
        <Panel title="Due">
          <Due rows={d.due} />
        </Panel>
        <Panel title="Looks odd">
          <Odd rows={d.odd} />
        </Panel>
        <Panel title="Classes">
          {d.classes.length === 0 ? (
            <Empty>You belong to no class yet. Make one, and add its students.</Empty>
          ) : (
            <ul className="divide-y divide-base-300">
              {d.classes.map((c) => (
                <li key={c.id} className="flex justify-between px-4 py-2">
                  <Link className="link" to={`/classes/${c.id}`}>
                    {c.name}
                  </Link>
                  <span className="text-sm">{c.students} students</span>
                </li>
              ))}
            </ul>
          )}
          {me.role !== "assistant" && <NewClass />}
        </Panel>
      </div>
    </div>
  );
}
