import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { type Me, type Schemas, ask, client, queries } from "../api/client";
import { when } from "../app/format";
import { useKept } from "../app/keep";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { Table } from "../controls/Table";
import { teaches } from "../session/session";
import { ClassTerms, ownZone, thisYear } from "./ClassTerms";

function NewClass() {
  const empty = { name: "", year: thisYear(), zone: ownZone };
  const { value, set, drop } = useKept("new-class", empty);
  const go = useNavigate();
  const make = useMutation({
    mutationFn: () => ask(client.POST("/classes", { body: value })),
    onSuccess: (c) => {
      drop(empty);
      void queries.invalidateQueries();
      void go(`/classes/${c.id}`);
    },
  });
  return (
    <Panel title="A new class">
      <ClassTerms value={value} set={set} submit={() => make.mutate()}>
        <button type="submit" className="btn btn-primary btn-sm" disabled={make.isPending}>
          {make.isPending ? "Making …" : "Make the class"}
        </button>
      </ClassTerms>
      {make.error && <Trouble error={make.error} />}
    </Panel>
  );
}

function Rows({ rows }: { rows: Schemas["Class"][] }) {
  return (
    <Table size="sm">
      <thead>
        <tr>
          <th>Class</th>
          <th>School year</th>
          <th>Students</th>
          <th>You</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((c) => (
          <tr key={c.id} className="hover:bg-base-200">
            <td>
              <Link className="link" to={`/classes/${c.id}`}>
                {c.name}
              </Link>
              {c.archived && `, archived ${when(c.archived)}`}
            </td>
            <td>{c.year || "–"}</td>
            <td>{c.students}</td>
            <td>{c.leads ? "instructor" : "assistant"}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** The classes that somebody teaches or helps in. */
export function Classes({ me }: { me: Me }) {
  useTitle("Classes");
  const [find, setFind] = useState("");
  const q = useQuery({ queryKey: ["classes"], queryFn: () => ask(client.GET("/classes")) });
  if (q.isPending) return <Loading what="the classes" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const like = (c: Schemas["Class"]) =>
    `${c.name} ${c.year}`.toLowerCase().includes(find.toLowerCase());
  const now = q.data.filter((c) => !c.archived && like(c));
  const past = q.data.filter((c) => c.archived && like(c));
  return (
    <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
      <h1>Classes</h1>
      <Panel
        title="Classes of now"
        side={
          <input
            type="search"
            className="input input-xs w-44"
            aria-label="Find a class"
            placeholder="name or school year"
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
        }
      >
        {now.length > 0 ? (
          <Rows rows={now} />
        ) : (
          <Empty>
            {find ? "No class is called that." : "There is none. Make one, then add its students."}
          </Empty>
        )}
      </Panel>
      {past.length > 0 && (
        <Panel title="Archived">
          <Rows rows={past} />
        </Panel>
      )}
      {teaches(me) && <NewClass />}
    </div>
  );
}
