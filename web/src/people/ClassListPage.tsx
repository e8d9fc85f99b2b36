import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import { ask, client } from "../api/client";
import { when } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, PageTrouble } from "../controls/notices";
import { groupsOf } from "./Groups";

/** How many empty columns there are to write in. */
const columns = 8;

/** The students of a class, or of a group, as a list for paper with room to write in. */
export function ClassListPage() {
  const id = Number(useParams().id);
  const [query, setQuery] = useSearchParams();
  const q = useQuery({
    queryKey: ["class", id],
    queryFn: () => ask(client.GET("/classes/{id}", { params: { path: { id } } })),
  });
  useTitle(q.data && `List, ${q.data.class.name}`);
  if (q.isPending) return <Loading what="the list" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const { class: c, groups, students, members } = q.data;
  const group = groups.find((g) => g.name === query.get("group"));
  const shown = students.filter((s) => !group || group.students.includes(s.id));
  const led = members.filter((m) => m.role === "instructor" && !m.until).map((m) => m.name);
  return (
    <div className="mx-auto flex max-w-5xl flex-col gap-3 p-4 print:max-w-none print:p-0">
      <div className="flex flex-wrap items-center gap-3 text-sm print:hidden">
        <Link className="link mr-auto" to={`/classes/${id}`}>
          {c.name}
        </Link>
        {groups.length > 0 && (
          <label className="flex items-center gap-2">
            Group
            <select
              className="select select-xs w-40"
              value={group?.name ?? ""}
              onChange={(e) =>
                setQuery(e.target.value ? { group: e.target.value } : {}, { replace: true })
              }
            >
              <option value="">the whole class</option>
              {groups.map((g) => (
                <option key={g.name}>{g.name}</option>
              ))}
            </select>
          </label>
        )}
        <button type="button" className="btn btn-primary btn-sm" onClick={() => window.print()}>
          Print
        </button>
      </div>
      <h1>
        {c.name}
        {group && `, ${group.name}`} <span className="text-base font-normal">{c.year}</span>
      </h1>
      <p className="text-sm">
        {shown.length} students{led.length > 0 && `, ${led.join(", ")}`}. As of{" "}
        {when(new Date().toISOString())}.
      </p>
      {shown.length === 0 ? (
        <Empty>Nobody is on the list.</Empty>
      ) : (
        <table className="k-list" aria-label="List of the class">
          <thead>
            <tr>
              <th scope="col" className="w-8 text-right">
                No
              </th>
              <th scope="col">Student</th>
              {!group && groups.length > 0 && <th scope="col">Group</th>}
              {Array.from({ length: columns }, (_, i) => (
                <td key={i} />
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((s, n) => (
              <tr key={s.id}>
                <td className="text-right">{n + 1}</td>
                <th scope="row">{s.name}</th>
                {!group && groups.length > 0 && <td>{groupsOf(groups, s.id)}</td>}
                {Array.from({ length: columns }, (_, i) => (
                  <td key={i} />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
