import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { type Me, type Schemas, ask, client } from "../api/client";
import { points, stateWords } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, Trouble } from "../controls/notices";
import { Enrol } from "../people/Enrol";
import { ResetPassword } from "../people/ResetPassword";
import { Slips } from "../people/Slips";
import { Table } from "../controls/Table";

/** The students of a class against what was issued to them. */
export function Roster({ me }: { me: Me }) {
  const id = Number(useParams().id);
  const [slips, setSlips] = useState<Schemas["Slip"][]>([]);
  const q = useQuery({
    queryKey: ["class", id],
    queryFn: () => ask(client.GET("/classes/{id}", { params: { path: { id } } })),
  });
  useTitle(q.data?.class.name);
  if (q.isPending) return <Loading what="the roster" />;
  if (!q.data)
    return (
      <div className="p-6">
        <Trouble error={q.error} retry={() => void q.refetch()} />
      </div>
    );
  const { class: c, students, issues } = q.data;
  const may = me.role !== "assistant";
  return (
    <div className="mx-auto flex max-w-7xl flex-col gap-4 p-4">
      <h1>{c.name}</h1>
      {slips.length > 0 && <Slips slips={slips} done={() => setSlips([])} />}
      <Panel
        title="Roster"
        side={
          <span className="flex items-center gap-3 text-sm">
            {c.students} students
            <a className="btn btn-xs" href={`/api/classes/${id}/points.csv`}>
              Points as CSV
            </a>
          </span>
        }
      >
        {students.length === 0 ? (
          <Empty>Nobody is on the roster yet. Add the students below.</Empty>
        ) : (
          <div className="overflow-x-auto">
            <Table size="sm">
              <thead>
                <tr>
                  <th>Student</th>
                  <th>Login</th>
                  {issues.map((i) => (
                    <th key={i.id}>
                      <Link className="link" to={`/issues/${i.id}`}>
                        {i.title}
                      </Link>
                    </th>
                  ))}
                  {may && <th>Password</th>}
                </tr>
              </thead>
              <tbody>
                {students.map((s) => (
                  <tr key={s.id}>
                    <td>{s.name}</td>
                    <td className="font-mono">{s.login}</td>
                    {issues.map((i) => {
                      const last = s.attempts.filter((a) => a.issueId === i.id).at(-1);
                      return (
                        <td key={i.id}>
                          {last ? (
                            <Link className="link" to={`/attempts/${last.id}`}>
                              {stateWords[last.state]}
                              {last.points !== undefined &&
                                `, ${points(last.points)} of ${points(last.outOf ?? 0)}`}
                              {last.points === undefined && last.of
                                ? `, ${last.in} of ${last.of} in`
                                : ""}{" "}
                              (attempt {last.number})
                            </Link>
                          ) : (
                            "nothing yet"
                          )}
                        </td>
                      );
                    })}
                    {may && (
                      <td>
                        <ResetPassword
                          id={s.id}
                          name={s.name}
                          give={(x) =>
                            setSlips((old) => [...old.filter((y) => y.login !== x.login), x])
                          }
                        />
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </Table>
          </div>
        )}
      </Panel>
      {may && <Enrol id={id} give={(more) => setSlips((old) => [...old, ...more])} />}
    </div>
  );
}
