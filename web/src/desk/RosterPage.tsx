import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import { points, stateWords, when } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { ClassTerms } from "../people/ClassTerms";
import { Enrol } from "../people/Enrol";
import { ExtraTime, Members, TakeOut } from "../people/Members";
import { Groups, groupsOf } from "../people/Groups";
import { ResetPassword } from "../people/ResetPassword";
import { Slips } from "../people/Slips";
import { Table } from "../controls/Table";

/** What a class is called, and putting it away at the end of the year. */
function About({ of }: { of: Schemas["Class"] }) {
  const path = { id: of.id };
  const [value, set] = useState({ name: of.name, year: of.year, zone: of.zone });
  const again = { onSuccess: () => queries.invalidateQueries() };
  const change = useMutation({
    mutationFn: () => ask(client.PUT("/classes/{id}", { params: { path }, body: value })),
    ...again,
  });
  const archive = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/classes/{id}/archived", {
          params: { path },
          body: { archived: !of.archived },
        }),
      ),
    ...again,
  });
  const same = value.name === of.name && value.year === of.year && value.zone === of.zone;
  return (
    <Panel title="About the class">
      <ClassTerms value={value} set={set} submit={() => change.mutate()}>
        <button type="submit" className="btn btn-sm" disabled={same || change.isPending}>
          Keep
        </button>
      </ClassTerms>
      <p className="flex flex-wrap items-center gap-2 border-t border-base-300 px-4 py-3 text-sm">
        <span className="mr-auto">
          {of.archived
            ? "It is archived: its exercises are on nobody’s desk."
            : "When the year is over it can be archived: all work stays, and its exercises leave " +
              "the desks."}
        </span>
        <a className="btn btn-sm" href={`/api/classes/${of.id}/export`} download>
          Export with everything
        </a>
        <button
          type="button"
          className="btn btn-sm"
          disabled={archive.isPending}
          onClick={() => archive.mutate()}
        >
          {of.archived ? "Bring it back" : "Archive the class"}
        </button>
      </p>
      {change.error && <Trouble error={change.error} />}
      {archive.error && <Trouble error={archive.error} />}
    </Panel>
  );
}

/** The students of a class against what was issued to them. */
export function Roster() {
  const id = Number(useParams().id);
  const [slips, setSlips] = useState<Schemas["Slip"][]>([]);
  const q = useQuery({
    queryKey: ["class", id],
    queryFn: () => ask(client.GET("/classes/{id}", { params: { path: { id } } })),
  });
  useTitle(q.data?.class.name);
  if (q.isPending) return <Loading what="the roster" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const { class: c, students, issues, groups } = q.data;
  const may = q.data.class.leads ?? false;
  return (
    <div className="mx-auto flex max-w-7xl flex-col gap-4 p-4">
      <h1>
        {c.name} <span className="text-base font-normal">{c.year}</span>
      </h1>
      {c.archived && (
        <p role="status">Archived {when(c.archived)}. It can be brought back below.</p>
      )}
      {slips.length > 0 && <Slips slips={slips} done={() => setSlips([])} />}
      <Panel
        title="Roster"
        side={
          <span className="flex items-center gap-3 text-sm">
            {c.students} students
            <Link className="btn btn-xs" to={`/classes/${id}/list`}>
              List to print
            </Link>
            {may && (
              <Link className="btn btn-xs" to={`/classes/${id}/gradebook`}>
                Gradebook
              </Link>
            )}
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
                  {may && <th>Extra hours</th>}
                  {may && <th>Membership</th>}
                </tr>
              </thead>
              <tbody>
                {students.map((s) => (
                  <tr key={s.id}>
                    <td>
                      {s.name}
                      <span className="block text-xs">{groupsOf(groups, s.id)}</span>
                    </td>
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
                    {may && (
                      <td>
                        {q.data.members
                          .filter((m) => m.id === s.id)
                          .map((m) => (
                            <ExtraTime key={m.extra ?? 0} classId={id} member={m} />
                          ))}
                      </td>
                    )}
                    {may && (
                      <td>
                        {q.data.members
                          .filter((m) => m.id === s.id)
                          .map((m) => (
                            <TakeOut key={m.id} classId={id} member={m} />
                          ))}
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
      {may && students.length > 0 && <Groups id={id} groups={groups} students={students} />}
      {q.data.withdrawn.length > 0 && (
        <Panel title="Withdrawn">
          <ul className="divide-y divide-base-300 text-sm">
            {q.data.withdrawn.map((i) => (
              <li key={i.id} className="px-4 py-2">
                <Link className="link" to={`/issues/${i.id}`}>
                  {i.title}
                </Link>
                , withdrawn {i.withdrawn && when(i.withdrawn)}
              </li>
            ))}
          </ul>
        </Panel>
      )}
      <Members classId={id} members={q.data.members} may={may} />
      {may && <About key={`${c.name} ${c.year} ${c.zone}`} of={c} />}
    </div>
  );
}
