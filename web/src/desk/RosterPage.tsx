import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { ask, client } from "../api/client";
import { points, stateWords } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, Trouble } from "../app/states";

/** The students of a class against what was issued to them. */
export function Roster() {
  const id = Number(useParams().id);
  const q = useQuery({ queryKey: ["class", id], queryFn: () => ask(client.GET("/classes/{id}", { params: { path: { id } } })) });
  useTitle(q.data?.class.name);
  if (q.isPending) return <Loading what="the roster" />;
  if (!q.data) return <div className="p-6"><Trouble error={q.error} retry={() => void q.refetch()} /></div>;
  const { class: c, students, issues } = q.data;
  return (
    <div className="mx-auto max-w-7xl p-4">
      <Panel title={c.name} side={<span className="text-sm">{c.students} students</span>}>
        {students.length === 0 ? <Empty>Nobody is on the roster yet.</Empty> : (
          <table className="table table-sm">
            <thead><tr><th>Student</th>{issues.map((i) => <th key={i.id}><Link className="link" to={`/issues/${i.id}`}>{i.title}</Link></th>)}</tr></thead>
            <tbody>
              {students.map((s) => (
                <tr key={s.id}>
                  <td>{s.name}</td>
                  {issues.map((i) => {
                    const last = s.attempts.filter((a) => a.issueId === i.id).at(-1);
                    return <td key={i.id}>{last ? <Link className="link" to={`/attempts/${last.id}`}>{stateWords[last.state]}{last.points !== undefined && `, ${points(last.points)} of ${points(last.outOf ?? 0)}`}{last.points === undefined && last.of ? `, ${last.in} of ${last.of} in` : ""} (attempt {last.number})</Link> : "nothing yet"}</td>;
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Panel>
    </div>
  );
}
