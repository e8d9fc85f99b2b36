import { useMutation, useQuery } from "@tanstack/react-query";
import { Suspense, lazy, useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { type Exercise as Data, ask, client, queries, sendFile } from "../api/client";
import { when } from "../app/format";
import { useTab, useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { useStartAssembly } from "../fitting/assemblies";
import { useStartModel } from "../model/models";
import { SheetEditor } from "../layout/SheetEditor";
import { SheetFiles } from "../sheet/SheetFiles";
import { SheetView } from "../sheet/SheetView";
import { useBalloonKeys } from "../sheet/useBalloonKeys";
import { CharacteristicsEditor } from "./CharacteristicsEditor";
import { OtherReference } from "./OtherReference";
import { useWorking } from "./working";
import { SheetAuditPanel, useSheetAudit } from "./SheetAudit";
import { MistakeAtlas } from "./MistakeAtlas";
import { WholeEditor } from "./WholeEditor";
import { cx } from "../app/cx";
import { FileButton } from "../controls/FileInput";
import { ChosenRow, Table } from "../controls/Table";
import { IssueForm } from "./IssueForm";
import { PartsPanel } from "./Parts";
import { SharingPanel } from "./Sharing";

const PartView = lazy(() => import("../part/PartView").then((m) => ({ default: m.PartView })));

/** Says that what is worked on is not what is issued. */
function NotSaved({ exercise }: { exercise: Data }) {
  const working = useWorking(exercise.id).data;
  return (
    working &&
    working.revision !== 0 && (
      <p className="border-b border-base-300 px-4 py-2 text-sm" role="note">
        {working.mine ? "You work on a draft" : `${working.by} works on a draft`} of this exercise.
        It is not saved yet: version {exercise.version} is issued without it.
      </p>
    )
  );
}

function NewVersion({ id }: { id: number }) {
  const take = useMutation({
    mutationFn: (f: File) =>
      sendFile<Data>(`/api/exercises?exercise=${id}`, f, () => undefined).done,
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <FileButton
      accept=".zip"
      label="New version as a zip"
      className="btn btn-xs"
      name="New version"
      busy="Drawing …"
      sending={take}
      take={(f) => take.mutate(f)}
    />
  );
}

function WorkOnReference({ exercise }: { exercise: Data }) {
  const model = useStartModel();
  const assembly = useStartAssembly();
  const { title: name, unit, id: exerciseId } = exercise;
  const start = exercise.kind === "part" ? model : assembly;
  return (
    <>
      <button
        type="button"
        className="btn btn-xs"
        disabled={start.isPending}
        onClick={() => start.mutate({ name, unit: unit as "mm", exerciseId })}
      >
        {start.isPending ? "Opening …" : "Work on the reference"}
      </button>
      {start.error && (
        <div className="toast toast-end z-20">
          <Trouble error={start.error} />
        </div>
      )}
    </>
  );
}

/** An exercise: its sheet, its reference, what is checked, and issuing it. */
export function Exercise() {
  const id = Number(useParams().id);
  const [chosen, choose] = useState<string | null>(null);
  const [tab, setTab] = useTab(
    ["sheet", "reference", "mistakes", "layout", "characteristics", "whole"] as const,
    "sheet",
  );
  const q = useQuery({
    queryKey: ["exercise", id],
    queryFn: () => ask(client.GET("/exercises/{id}", { params: { path: { id } } })),
  });
  useTitle(q.data?.title);
  const audit = useSheetAudit(id, q.data?.version ?? 0);
  const mesh = useQuery({
    queryKey: ["exercise-mesh", id, q.data?.version],
    enabled: ["reference", "characteristics", "layout"].includes(tab) && !!q.data,
    staleTime: Infinity,
    queryFn: () => ask(client.GET("/exercises/{id}/mesh", { params: { path: { id } } })),
  });
  const faces = useMemo(() => (chosen && q.data?.faces[chosen]) || [], [chosen, q.data]);
  const shown = useMemo(
    () =>
      mesh.data ? [{ key: "reference" as const, label: "Reference", mesh: mesh.data, faces }] : [],
    [mesh.data, faces],
  );
  const balloons = useMemo(() => q.data?.characteristics.map((c) => c.id), [q.data]);
  useBalloonKeys(balloons, chosen, choose);
  /** It takes the whole width. */
  const wide = ["characteristics", "layout", "whole"].includes(tab);
  if (q.isPending) return <Loading what="the exercise" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const ex = q.data;
  const may = ex.mayChange;
  /** What is drawn and picked here is a part; of an assembly it is changed what is asked of it. */
  const part = ex.kind === "part";
  return (
    <div className={cx("grid h-full min-h-0 gap-3 p-3", !wide && "lg:grid-cols-[1fr_21rem]")}>
      <section
        className="flex min-h-96 flex-col border border-base-300 bg-base-100"
        aria-label="Sheet and reference"
      >
        <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
          <h1 className="mr-auto">
            {ex.title}{" "}
            <span className="text-base font-normal">
              {ex.number && `${ex.number}, `}version {ex.version}
            </span>
          </h1>
          <div role="tablist" className="tabs tabs-border tabs-sm">
            {[
              ...(["sheet", "reference"] as const),
              ...(part ? (["mistakes"] as const) : []),
              ...(may && part ? (["layout", "characteristics"] as const) : []),
              ...(may && !part ? (["whole"] as const) : []),
            ].map((t) => (
              <button
                key={t}
                type="button"
                role="tab"
                aria-selected={tab === t}
                className={`tab ${tab === t ? "tab-active" : ""}`}
                onClick={() => setTab(t)}
              >
                {
                  {
                    sheet: "Sheet",
                    reference: "Reference",
                    mistakes: "Mistake atlas",
                    layout: "Lay out",
                    characteristics: "Edit",
                    whole: "Edit",
                  }[t]
                }
              </button>
            ))}
          </div>
          {!wide && <SheetFiles path={`exercises/${id}`} />}
          {ex.mayUse && (
            <a className="btn btn-xs" href={`/api/exercises/${id}/bundle`}>
              Export
            </a>
          )}
          {may && <WorkOnReference exercise={ex} />}
          {may && part && <OtherReference exercise={ex} />}
          {may && <NewVersion id={id} />}
        </div>
        <div className="min-h-0 flex-1">
          {tab === "mistakes" ? (
            <MistakeAtlas
              id={id}
              version={ex.version}
              choose={(b) => choose(ex.characteristics.find((c) => c.balloon === b)?.id ?? null)}
            />
          ) : tab === "sheet" ? (
            <SheetView
              url={`/api/exercises/${id}/sheet?version=${ex.version}`}
              chosen={chosen}
              choose={choose}
            />
          ) : tab === "whole" ? (
            <WholeEditor id={id} />
          ) : tab === "layout" ? (
            <SheetEditor key={id} id={id} version={ex.version} mesh={mesh.data} />
          ) : mesh.error ? (
            <Trouble error={mesh.error} />
          ) : mesh.data && tab === "characteristics" ? (
            <CharacteristicsEditor id={id} mesh={mesh.data} />
          ) : mesh.data ? (
            <Suspense fallback={<Loading what="the view" />}>
              <PartView
                shown={shown}
                pick={(_, face) =>
                  choose(ex.characteristics.find((c) => ex.faces[c.id]?.includes(face))?.id ?? null)
                }
              />
            </Suspense>
          ) : (
            <Loading what="the reference" />
          )}
        </div>
      </section>
      <div
        className={
          wide ? "hidden" : "flex min-h-0 flex-col gap-3 overflow-auto [scrollbar-gutter:stable]"
        }
      >
        {ex.mayUse && (
          <Panel title="Issue to a class">
            {may && <NotSaved exercise={ex} />}
            <IssueForm exercise={ex} audit={audit.data} />
          </Panel>
        )}
        <SheetAuditPanel
          audit={audit}
          kind={ex.kind}
          edit={may ? () => setTab(part ? "characteristics" : "whole") : undefined}
        />
        <Panel title="Issued">
          {ex.issues.length === 0 ? (
            <Empty>Not issued yet.</Empty>
          ) : (
            <ul className="divide-y divide-base-300 text-sm">
              {ex.issues.map((i) => (
                <li key={i.id} className="px-4 py-2">
                  <Link className="link" to={`/issues/${i.id}`}>
                    {i.className}
                  </Link>
                  , version {i.version}, due {when(i.due)}
                </li>
              ))}
            </ul>
          )}
        </Panel>
        <Panel
          title="Characteristics"
          side={<span className="text-sm">{ex.characteristics.length}</span>}
        >
          <Table>
            <tbody>
              {ex.characteristics.map((c) => (
                <ChosenRow
                  key={c.id}
                  chosen={chosen === c.id}
                  onClick={() => choose(chosen === c.id ? null : c.id)}
                >
                  <td className="whitespace-nowrap">
                    {c.item ? `${c.item}/${c.balloon}` : c.balloon}
                  </td>
                  <td>
                    <button type="button" className="text-left" aria-pressed={chosen === c.id}>
                      {c.label}
                    </button>
                  </td>
                  <td className="whitespace-nowrap text-right">
                    {c.places > 1 && `${c.places} × `}
                    {c.text}
                  </td>
                </ChosenRow>
              ))}
            </tbody>
          </Table>
        </Panel>
        <Panel title="Marked by">
          <ul className="px-4 py-2 text-sm">
            {ex.rubric.map((r) => (
              <li key={r.label} className="flex justify-between">
                <span>{r.label}</span>
                <span>{r.points}</span>
              </li>
            ))}
          </ul>
          <p className="border-t border-base-300 px-4 py-2 text-sm">
            Varied in the check:{" "}
            {ex.driving.join(", ") || "nothing: the reference has no sizes of its own to vary"}.
          </p>
        </Panel>
        <Panel title="What was done">
          <ul className="px-4 py-2 text-sm">
            {ex.trail.map((t, i) => (
              <li key={i}>
                {when(t.at)}, {t.by}: {t.detail}
              </li>
            ))}
          </ul>
          {!may && (
            <p className="border-t border-base-300 px-4 py-2 text-sm">
              It is {ex.maker}’s. To change it, have it shared with you, or make a copy of your own.
            </p>
          )}
        </Panel>
        <PartsPanel exercise={ex} />
        <SharingPanel exercise={ex} />
      </div>
    </div>
  );
}
