import { useMutation, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Schemas, ask, client, sendFile } from "../api/client";
import { distance } from "../app/format";
import { useTitle } from "../app/place";
import { FileButton } from "../controls/FileInput";
import { Empty, Loading, Panel, PageTrouble } from "../controls/notices";
import { Table } from "../controls/Table";

type Row = Schemas["ExerciseRow"];

const orders = {
  number: (a: Row, b: Row) => a.number.localeCompare(b.number, undefined, { numeric: true }),
  title: (a: Row, b: Row) => a.title.localeCompare(b.title),
  changed: (a: Row, b: Row) => b.created.localeCompare(a.created),
  issued: (a: Row, b: Row) => b.issues - a.issues,
} as const;
type Order = keyof typeof orders;
const columns: [Order, string][] = [
  ["number", "Number"],
  ["title", "Title"],
  ["issued", "Issued"],
  ["changed", "Changed"],
];

/** Begins an exercise, after saying what it can begin with. */
function Begin() {
  const go = useNavigate();
  const take = useMutation({
    mutationFn: (f: File) =>
      sendFile<Schemas["Exercise"]>("/api/exercises", f, () => undefined).done,
    onSuccess: (e) => void go(`/exercises/${e.id}`),
  });
  return (
    <Panel title="A new exercise">
      <div className="flex flex-wrap items-center gap-3 px-4 py-3 text-sm">
        <p className="min-w-60 flex-1">
          Bring in an exercise as a zip of open files, or begin one with its reference alone: a STEP
          file, a model document, or the bundle of an assembly. Its sheet is drawn first; nothing is
          issued by this. A model of yours can become one as well: open it under{" "}
          <Link className="link" to="/models">
            My models
          </Link>
          .
        </p>
        <FileButton
          accept=".zip,.step,.stp,.p21,.json"
          label="Exercise as a zip, or a reference alone"
          className="btn btn-primary btn-sm"
          name="Choose its file"
          busy="Drawing its sheet …"
          sending={take}
          take={(f) => take.mutate(f)}
        />
      </div>
    </Panel>
  );
}

/** The sheet of an exercise, small. */
function Preview({ row }: { row: Row }) {
  return (
    <img
      className="h-12 w-[4.25rem] border border-base-300 bg-white object-contain"
      alt=""
      loading="lazy"
      src={`/api/exercises/${row.id}/sheet?version=${row.version}&format=svg`}
    />
  );
}

function shares(row: Row) {
  if (row.mine) return "yours";
  return row.may ? `${row.maker}’s, to ${row.may}` : `${row.maker}’s`;
}

/** All exercises that somebody may read, to be found again. */
export function Exercises() {
  useTitle("Exercises");
  const [query, setQuery] = useSearchParams();
  const [find, setFind] = useState("");
  const order = (query.get("by") ?? "number") as Order;
  const tag = query.get("tag");
  const archived = query.has("archived");
  const q = useQuery({ queryKey: ["exercises"], queryFn: () => ask(client.GET("/exercises")) });
  const put = (name: string, value: string | null) =>
    setQuery(
      (old) => {
        const next = new URLSearchParams(old);
        if (value === null) next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const rows = useMemo(() => {
    const words = find.toLowerCase().split(/\s+/);
    return (q.data ?? [])
      .filter((r) => archived === !!r.archived && (!tag || r.tags.includes(tag)))
      .filter((r) => {
        const text = [r.number, r.title, r.maker, ...r.tags].join(" ").toLowerCase();
        return words.every((w) => text.includes(w));
      })
      .toSorted(orders[order] ?? orders.number);
  }, [q.data, find, order, tag, archived]);
  if (q.isPending) return <Loading what="the exercises" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const tags = [...new Set(q.data.flatMap((r) => r.tags))].toSorted();
  const away = q.data.filter((r) => r.archived).length;
  return (
    <div className="mx-auto flex max-w-6xl flex-col gap-4 p-4">
      <h1>Exercises</h1>
      <Begin />
      <Panel
        title={archived ? "Archived" : "All exercises"}
        side={
          <span className="flex flex-wrap items-center gap-2 text-sm">
            {tags.map((t) => (
              <button
                key={t}
                type="button"
                className={`btn btn-xs ${tag === t ? "btn-primary" : ""}`}
                aria-pressed={tag === t}
                onClick={() => put("tag", tag === t ? null : t)}
              >
                {t}
              </button>
            ))}
            {(away > 0 || archived) && (
              <button
                type="button"
                className="btn btn-xs"
                aria-pressed={archived}
                onClick={() => put("archived", archived ? null : "")}
              >
                {archived ? "Not archived" : `Archived (${away})`}
              </button>
            )}
            <input
              type="search"
              className="input input-xs w-44"
              aria-label="Find an exercise"
              placeholder="number, title, tag, maker"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
            {rows.length} of {q.data.length}
          </span>
        }
      >
        {rows.length === 0 ? (
          <Empty>
            {q.data.length === 0
              ? "There is no exercise yet. Bring one in, or begin one with its reference."
              : "No exercise is like that."}
          </Empty>
        ) : (
          <Table size="sm">
            <thead>
              <tr>
                <th>
                  <span className="sr-only">Sheet</span>
                </th>
                {columns.map(([key, name]) => (
                  <th key={key} aria-sort={order === key ? "ascending" : undefined}>
                    <button type="button" className="font-semibold" onClick={() => put("by", key)}>
                      {name}
                      {order === key && " ▾"}
                    </button>
                  </th>
                ))}
                <th>Whose</th>
                <th>Tags</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.id} className="hover:bg-base-200">
                  <td className="w-20">
                    <Preview row={r} />
                  </td>
                  <td className="whitespace-nowrap">{r.number}</td>
                  <td>
                    <Link className="link" to={`/exercises/${r.id}`}>
                      {r.title}
                    </Link>
                  </td>
                  <td className="whitespace-nowrap">
                    {r.issues === 0 ? "not yet" : `${r.issues} time${r.issues > 1 ? "s" : ""}`}
                  </td>
                  <td className="whitespace-nowrap">
                    version {r.version}, {distance(r.created)}
                  </td>
                  <td>{shares(r)}</td>
                  <td>{r.tags.join(", ")}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
      </Panel>
    </div>
  );
}
