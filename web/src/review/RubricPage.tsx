import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import { points } from "../app/format";
import { useTitle } from "../app/place";
import { useKept } from "../app/keep";
import { Empty, Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { cx } from "../app/cx";
import { Table } from "../controls/Table";
import { Points } from "./Points";
import { DeductionFields, PointFields } from "./RubricFields";

type Rubric = Schemas["Rubric"];
type View = Schemas["RubricView"];

function Editor({
  view,
  rubric,
  setRubric,
  weights,
  setWeights,
  worths,
}: {
  view: View;
  worths: View["worths"];
  rubric: Rubric;
  setRubric: (r: Rubric) => void;
  weights: Record<string, number>;
  setWeights: (w: Record<string, number>) => void;
}) {
  return (
    <>
      <PointFields
        kind={view.kind === "assembly" ? "assembly" : "part"}
        rubric={rubric}
        setRubric={setRubric}
      />
      <Worths worths={worths} />
      <DeductionFields rubric={rubric} setRubric={setRubric} faults={view.faults} />
      <Panel title="Weights of the characteristics">
        <Table>
          <tbody>
            {view.weights.map((w) => (
              <tr key={w.id}>
                <td>{w.balloon}</td>
                <td>{w.label}</td>
                <td className="text-right">
                  <Points
                    label={`Weight of ${w.label}`}
                    most={1000}
                    value={weights[w.id] ?? w.weight}
                    set={(v) => setWeights({ ...weights, [w.id]: v })}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Panel>
    </>
  );
}

/** What a single fault costs in a model that is right but for it. */
function Worths({ worths }: { worths: View["worths"] }) {
  return (
    <Panel title="What one fault costs in a model">
      <Table>
        <thead>
          <tr>
            <th>Fault</th>
            <th className="text-right">Costs</th>
            <th className="text-right">Leaves</th>
          </tr>
        </thead>
        <tbody>
          {worths.map((w) => (
            <tr key={w.fault}>
              <td>{w.fault}</td>
              <td className="text-right whitespace-nowrap">{points(w.costs)}</td>
              <td className="text-right whitespace-nowrap">
                {points(w.leaves)} of {points(w.outOf)}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Panel>
  );
}

/** The rubric of an issue, and what it gives for the attempts that are there. */
export function RubricPage() {
  const id = Number(useParams().id);
  const q = useQuery({
    queryKey: ["rubric", id],
    queryFn: () => ask(client.GET("/issues/{id}/rubric", { params: { path: { id } } })),
  });
  useTitle(q.data && `${q.data.title}, rubric`);
  const none = { rubric: null as Rubric | null, weights: {} as Record<string, number> };
  const { value: typed, set: type, drop } = useKept(`rubric/${id}`, none);
  const { rubric, weights } = typed;
  const body = (apply: boolean) => ({
    rubric: rubric ??
      q.data?.rubric ?? { characteristics: 0, wholePart: 0, robustness: 0, sketches: 0 },
    weights,
    apply,
  });
  const changed = rubric !== null || Object.keys(weights).length > 0;
  const preview = useMutation({
    mutationFn: () =>
      ask(client.POST("/issues/{id}/rubric", { params: { path: { id } }, body: body(false) })),
  });
  const apply = useMutation({
    mutationFn: () =>
      ask(client.POST("/issues/{id}/rubric", { params: { path: { id } }, body: body(true) })),
    onSuccess: () => {
      drop(none);
      preview.reset();
      void queries.invalidateQueries();
    },
  });
  const look = preview.mutate;
  useEffect(() => {
    if (!changed) return;
    const t = setTimeout(() => look(), 250);
    return () => clearTimeout(t);
  }, [rubric, weights, changed, look]);
  if (q.isPending) return <Loading what="the rubric" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const { rows, worths } = (changed ? preview.data : undefined) ?? q.data;
  const moved = rows.filter((r) => r.after !== r.before || r.afterOutOf !== r.beforeOutOf).length;
  return (
    <div className="grid h-full min-h-0 gap-3 p-3 lg:grid-cols-[26rem_1fr]">
      <div className="flex min-h-0 flex-col gap-3 overflow-auto [scrollbar-gutter:stable]">
        <div className="flex items-center gap-3">
          <h1 className="mr-auto">
            Rubric <span className="text-base font-normal">{q.data.title}</span>
          </h1>
          <Link className="btn btn-xs" to={`/issues/${id}`}>
            Sheet
          </Link>
        </div>
        <Editor
          view={q.data}
          worths={worths}
          rubric={rubric ?? q.data.rubric}
          setRubric={(r) => type({ ...typed, rubric: r })}
          weights={weights}
          setWeights={(w) => type({ ...typed, weights: w })}
        />
      </div>
      <section
        className="flex min-h-96 flex-col border border-base-300 bg-base-100"
        aria-label="What it gives"
      >
        <div className="flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2">
          <h2 className="mr-auto">What it gives</h2>
          {preview.isPending && (
            <span
              className="loading loading-ring loading-xs"
              role="status"
              aria-label="Working it out"
            />
          )}
          {changed && (
            <>
              <span className="text-sm">
                {moved === 0 ? "no points change" : `${moved} of ${rows.length} change`}
              </span>
              <button
                type="button"
                className="btn btn-xs"
                onClick={() => {
                  drop(none);
                  preview.reset();
                }}
              >
                Undo
              </button>
              <button
                type="button"
                className="btn btn-primary btn-xs"
                disabled={apply.isPending || preview.isPending || !!preview.error}
                onClick={() => apply.mutate()}
              >
                Mark by this
              </button>
            </>
          )}
        </div>
        {preview.error && <Trouble error={preview.error} />}
        {apply.error && <Trouble error={apply.error} />}
        {rows.length === 0 ? (
          <Empty>No attempt has been checked yet; the rubric can be set all the same.</Empty>
        ) : (
          <div className="min-h-0 flex-1 overflow-auto">
            <Table pinned>
              <thead>
                <tr>
                  <th>Student</th>
                  <th>By part</th>
                  <th className="text-right">Now</th>
                  <th className="text-right">Then</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((r) => (
                  <tr key={r.attempt}>
                    <td className="whitespace-nowrap">
                      <Link className="link" to={`/attempts/${r.attempt}`}>
                        {r.student}
                      </Link>
                      {r.number > 1 && ` (${r.number})`}
                      {r.returned && ", returned"}
                    </td>
                    <td className="text-xs">
                      {r.marks
                        .map(
                          (m) =>
                            `${m.label} ${points(m.points)}` +
                            (m.outOf > 0 ? ` of ${points(m.outOf)}` : ""),
                        )
                        .join(", ")}
                    </td>
                    <td className="text-right whitespace-nowrap">
                      {points(r.before)} of {points(r.beforeOutOf)}
                    </td>
                    <td
                      className={cx(
                        "text-right whitespace-nowrap",
                        (r.after !== r.before || r.afterOutOf !== r.beforeOutOf) &&
                          "font-semibold text-primary",
                      )}
                    >
                      {r.returned ? "stays" : `${points(r.after)} of ${points(r.afterOutOf)}`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </div>
        )}
      </section>
    </div>
  );
}
