import { Suspense, lazy, useMemo, useState } from "react";
import type { Mesh, Schemas } from "../api/client";
import { DraftTrouble, HereAgain, OtherHand } from "./DraftBar";
import { Empty, Loading, Trouble, sentence } from "../controls/notices";
import { ToleranceFields } from "./ToleranceFields";
import { cx } from "../app/cx";
import { type SheetFinding, SheetFindings, auditWords } from "./SheetAudit";
import { Field, FieldRow } from "../controls/Field";
import { TitleBlock } from "./TitleBlock";
import { Points } from "../review/Points";
import { DeductionFields, PointFields } from "../review/RubricFields";
import { PersonalSizes } from "./PersonalSizes";
import { WhatIfs } from "./WhatIfs";
import { type Characteristic, type Draft, useDraft } from "./useDraft";

const PartView = lazy(() => import("../part/PartView").then((m) => ({ default: m.PartView })));

type Kind = Draft["kinds"][number];

/** A name for a new characteristic that no other has. */
function freshId(list: Characteristic[], kind: string) {
  for (let n = 1; ; n++) {
    const id = `${kind.replaceAll("-", "_")}_${n}`;
    if (!list.some((c) => c.id === id)) return id;
  }
}

function Form({
  c,
  kinds,
  draft,
  value,
  change,
  remove,
  done,
}: {
  c: Characteristic;
  kinds: Kind[];
  draft: Draft;
  value: Draft["values"][number] | undefined;
  change: (c: Characteristic) => void;
  remove: () => void;
  done: () => void;
}) {
  const kind = kinds.find((k) => k.kind === c.kind);
  const picks = c.of?.[0] ?? [];
  const words = (name: string) =>
    draft.faces.find((f) => f.name === name)?.words ?? value?.called[name] ?? name;
  return (
    <div className="flex flex-col gap-2 border-b border-base-300 bg-base-200 px-4 py-3 text-sm">
      <FieldRow label="Kind">
        <select
          className="select select-xs flex-1"
          value={c.kind}
          onChange={(e) => change({ ...c, kind: e.target.value })}
        >
          {kinds.map((k) => (
            <option key={k.kind} value={k.kind}>
              {k.title}
            </option>
          ))}
        </select>
      </FieldRow>
      <FieldRow label="Label">
        <input
          className="input input-xs flex-1"
          value={c.label}
          onChange={(e) => change({ ...c, label: e.target.value })}
        />
      </FieldRow>
      {kind && kind.on !== "" && (
        <div className="flex gap-2">
          <span className="w-24">Measured on</span>
          <div className="flex-1">
            {picks.length > 0 && (
              <ul>
                {picks.map((p, i) => (
                  <li key={`${p} ${i}`} className="flex items-center gap-2">
                    <span className="flex-1" title={p}>
                      {words(p)}
                    </span>
                    <button
                      type="button"
                      className="btn btn-ghost btn-xs"
                      aria-label={`Take back ${words(p)}`}
                      onClick={() => change({ ...c, of: [picks.filter((_, k) => k !== i)] })}
                    >
                      take back
                    </button>
                  </li>
                ))}
              </ul>
            )}
            <select
              className="select select-xs w-full"
              aria-label="Add a face from the list"
              value=""
              onChange={(e) => e.target.value && change({ ...c, of: [[...picks, e.target.value]] })}
            >
              <option value="">or from the list</option>
              {draft.faces.map(
                (f) =>
                  f.name &&
                  !picks.includes(f.name) && (
                    <option key={f.name} value={f.name}>
                      {f.words}
                    </option>
                  ),
              )}
            </select>
          </div>
        </div>
      )}
      {kind?.text && (
        <FieldRow label="Sheet says">
          <input
            className="input input-xs flex-1"
            value={c.text ?? ""}
            onChange={(e) => change({ ...c, text: e.target.value })}
          />
        </FieldRow>
      )}
      {kind && !kind.text && kind.on !== "" && (
        <FieldRow label="Printed as">
          <input
            className="input input-xs flex-1"
            aria-label="Printed as"
            placeholder="as it is measured"
            maxLength={20}
            value={c.stated ?? ""}
            onChange={(e) => change({ ...c, stated: e.target.value || undefined })}
          />
        </FieldRow>
      )}
      {draft.driving.length > 0 && (
        <FieldRow label="Driving size">
          <select
            className="select select-xs flex-1"
            value={c.parameter ?? ""}
            title="The size of the reference that is behind it"
            onChange={(e) => change({ ...c, parameter: e.target.value || undefined })}
          >
            <option value="">none</option>
            {draft.driving.map((d) => (
              <option key={d.name} value={d.name}>
                {d.name}
              </option>
            ))}
          </select>
        </FieldRow>
      )}
      <FieldRow label="Weight">
        <Points
          label="Weight among the characteristics"
          most={1000}
          value={c.free ? 0 : (c.weight ?? 1)}
          set={(weight) => change({ ...c, weight: weight || undefined, free: weight === 0 })}
        />
      </FieldRow>
      {c.kind === "datum" && (
        <FieldRow label="Datum">
          <select
            className="select select-xs flex-1"
            value={c.datum ?? ""}
            onChange={(e) => change({ ...c, datum: e.target.value })}
          >
            <option value="">choose</option>
            {["XY", "YZ", "XZ"].map((d) => (
              <option key={d}>{d}</option>
            ))}
          </select>
        </FieldRow>
      )}
      <FieldRow label="Tolerance">
        <ToleranceFields
          tolerance={c.tolerance}
          change={(tolerance) => {
            change({ ...c, tolerance });
          }}
        />
      </FieldRow>
      <p role="status" className={value?.error ? "font-semibold text-primary" : ""}>
        {value === undefined
          ? "…"
          : value.error
            ? sentence(picks.length === 0 && kind?.on ? `${value.error}, in the view` : value.error)
            : [
                `Reads ${value.places > 1 ? `${value.places} × ` : ""}${value.text}`,
                value.limits && `allowed ${value.limits}`,
              ]
                .filter(Boolean)
                .join(", ")}
      </p>
      <div className="flex gap-2">
        <button type="button" className="btn btn-xs" onClick={remove}>
          Remove
        </button>
        <button type="button" className="btn btn-primary btn-xs ml-auto" onClick={done}>
          Done
        </button>
      </div>
    </div>
  );
}

/** Chooses what is checked, on the faces of the reference, and what the sheet says of it. */
export function CharacteristicsEditor({ id, mesh }: { id: number; mesh: Mesh }) {
  const d = useDraft(id);
  const { q, now, draft, fill } = d;
  const [open, setOpen] = useState<string | null>(null);
  /** A finding of the audit that is shown on the part. */
  const [found, setFound] = useState<SheetFinding | null>(null);
  const [arrange, setArrange] = useState<boolean | null>(null);
  const layOut = arrange ?? draft?.dimensioned === 0;
  const values = draft?.values;
  const audit = draft?.audit;
  const current = now?.list.find((c) => c.id === open);
  const faces = useMemo(() => {
    if (found) return found.faces;
    if (!draft || !current) return [];
    const read = values?.find((v) => v.id === current.id)?.faces ?? [];
    if (read.length > 0) return read;
    return (current.of ?? [])
      .flat()
      .flatMap((name) => draft.faces.filter((f) => f.name === name).map((f) => f.ref));
  }, [draft, current, values, found]);
  const shown = useMemo(
    () => [{ key: "reference" as const, label: "Reference", mesh, faces }],
    [mesh, faces],
  );
  if (q.isPending) return <Loading what="the faces of the reference" />;
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  if (!draft || !now || !d.working) return null;
  const set = (list: Characteristic[]) => {
    setFound(null);
    fill({ ...now, list: list.map((c, i) => ({ ...c, balloon: i + 1 })) });
  };
  const change = (c: Characteristic) => set(now.list.map((x) => (x.id === c.id ? c : x)));
  const pick = (ref: Schemas["Ref"]) => {
    const name = draft.faces.find((f) => f.ref === ref)?.name;
    if (!current || !name) return;
    const list = current.of?.[0] ?? [];
    change({
      ...current,
      of: [list.includes(name) ? list.filter((n) => n !== name) : [...list, name]],
    });
  };
  const add = () => {
    const id = freshId(now.list, "distance");
    set([
      ...now.list,
      { id, balloon: now.list.length + 1, kind: "distance", label: "Distance", of: [] },
    ]);
    setOpen(id);
  };
  const refused = now.refused ?? draft.refused;
  const refuse = (list: Draft["refused"]) => {
    setFound(null);
    fill({ ...now, refused: list });
  };
  /** Adds what would settle findings, each once. */
  const settle = (findings: SheetFinding[]) => {
    const list = [...now.list];
    const same = (c: { kind: string; of?: string[][] }) => JSON.stringify([c.kind, c.of]);
    for (const { add } of findings) {
      if (!add || list.some((c) => same(c) === same(add))) continue;
      list.push({ id: freshId(list, add.kind), balloon: list.length + 1, ...add });
    }
    set(list);
  };
  const save = (over: boolean) =>
    d.save.mutate({ arrange: layOut, over }, { onSuccess: () => setOpen(null) });
  const faults = (values ?? []).filter((v) => v.error).length;
  return (
    <div className="flex h-full min-h-0 flex-col">
      {!d.working.mine && <OtherHand working={d.working} take={() => d.move.mutate("take")} />}
      <div className="grid min-h-0 flex-1 lg:grid-cols-[1fr_25rem]" inert={!d.working.mine}>
        <Suspense fallback={<Loading what="the view" />}>
          <PartView
            shown={shown}
            pick={(_, ref) => pick(ref)}
            wiggle={found?.motion ? { faces: found.faces, motion: found.motion } : null}
            note={
              current
                ? "Click the faces that it is measured on"
                : "Open a characteristic, or add one, to pick its faces"
            }
          />
        </Suspense>
        <div className="flex min-h-0 flex-col border-l border-base-300">
          <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
            <button type="button" className="btn btn-xs" onClick={add}>
              Add a characteristic
            </button>
            {d.looking && (
              <span
                className="loading loading-ring loading-xs"
                role="status"
                aria-label="Measuring"
              />
            )}
            <span className="ml-auto flex gap-1">
              <button
                type="button"
                className="btn btn-xs"
                disabled={!d.canUndo || d.move.isPending}
                onClick={() => d.move.mutate("undo")}
              >
                Undo
              </button>
              <button
                type="button"
                className="btn btn-xs"
                disabled={d.working.redo === 0 || d.move.isPending}
                onClick={() => d.move.mutate("redo")}
              >
                Redo
              </button>
              {d.changed && (
                <button
                  type="button"
                  className="btn btn-xs"
                  onClick={() => {
                    setOpen(null);
                    d.move.mutate("drop");
                  }}
                >
                  Begin from what is saved
                </button>
              )}
              {d.changed && (
                <button
                  type="button"
                  className="btn btn-primary btn-xs"
                  disabled={d.save.isPending || faults > 0}
                  onClick={() => save(false)}
                >
                  {d.save.isPending ? "Drawing …" : "Save as a new version"}
                </button>
              )}
            </span>
          </div>
          {d.again && <HereAgain />}
          {d.error && (
            <DraftTrouble
              error={d.error}
              over={() => save(true)}
              insist={d.save.error ? undefined : d.insist}
            />
          )}
          <div className="min-h-0 flex-1 overflow-auto">
            {audit && (
              <details
                className="border-b border-base-300"
                open={audit.findings.length > 0}
                data-sheet-audit
              >
                <summary className="cursor-pointer px-4 py-1.5 text-sm font-semibold">
                  Does the sheet determine the part?{" "}
                  <span role="status">
                    {auditWords(audit)}
                    {d.looking && " Still looking …"}
                  </span>
                </summary>
                {audit.findings.filter((f) => f.add).length > 1 && (
                  <button
                    type="button"
                    className="btn btn-xs mx-4 my-1"
                    onClick={() => settle(audit.findings)}
                  >
                    Add all that is missing
                  </button>
                )}
                <SheetFindings
                  audit={audit}
                  chosen={found?.what ?? null}
                  refuse={({ what, of }) => refuse([...refused, { what, of }])}
                  actions={(f) => (
                    <>
                      {f.faces.length > 0 && (
                        <button
                          type="button"
                          className="btn btn-xs"
                          aria-pressed={found?.what === f.what}
                          onClick={() => {
                            setOpen(null);
                            setFound(found?.what === f.what ? null : f);
                          }}
                        >
                          {f.motion ? "Show how it can move" : "Show it"}
                        </button>
                      )}
                      {f.add && (
                        <button type="button" className="btn btn-xs" onClick={() => settle([f])}>
                          Add it
                        </button>
                      )}
                      {f.kind === "twice" &&
                        now.list
                          .filter((c) => f.characteristics.includes(c.id))
                          .map((c) => (
                            <button
                              key={c.id}
                              type="button"
                              className="btn btn-xs"
                              onClick={() => set(now.list.filter((x) => x.id !== c.id))}
                            >
                              Leave out “{c.label}”
                            </button>
                          ))}
                    </>
                  )}
                />
                {refused.length > 0 && (
                  <p className="px-4 pb-2 text-sm">
                    {refused.length === 1 ? "One thing is" : `${refused.length} things are`} not to
                    be read from the drawing.{" "}
                    <button type="button" className="btn btn-xs" onClick={() => refuse([])}>
                      Read them again
                    </button>
                  </p>
                )}
              </details>
            )}
            {now.list.length === 0 ? (
              <Empty>Nothing is checked yet.</Empty>
            ) : (
              <ol>
                {now.list.map((c) => {
                  const v = values?.find((x) => x.id === c.id);
                  return (
                    <li key={c.id}>
                      <button
                        type="button"
                        className={cx(
                          "flex w-full items-baseline gap-2 border-b border-base-300",
                          "px-4 py-1.5 text-left text-sm hover:bg-base-200",
                          open === c.id && "font-semibold",
                        )}
                        aria-expanded={open === c.id}
                        onClick={() => {
                          setFound(null);
                          setOpen(open === c.id ? null : c.id);
                        }}
                      >
                        <span className="w-6">{c.balloon}</span>
                        <span className="flex-1">{c.label}</span>
                        <span className={v?.error ? "font-semibold text-primary" : ""}>
                          {v
                            ? v.error
                              ? "not yet"
                              : `${v.places > 1 ? `${v.places} × ` : ""}${v.text}`
                            : "…"}
                        </span>
                      </button>
                      {open === c.id && (
                        <Form
                          c={c}
                          kinds={draft.kinds}
                          draft={draft}
                          value={v}
                          change={change}
                          remove={() => {
                            set(now.list.filter((x) => x.id !== c.id));
                            setOpen(null);
                          }}
                          done={() => setOpen(null)}
                        />
                      )}
                    </li>
                  );
                })}
              </ol>
            )}
            <div className="flex flex-col gap-2 px-4 py-3 text-sm">
              {(
                [
                  ["title", "Title"],
                  ["number", "Drawing number"],
                  ["material", "Material"],
                  ["density", "Density, g/cm³"],
                ] as const
              ).map(([k, label]) => (
                <label key={k} className="flex items-center gap-2">
                  <span className="w-32">{label}</span>
                  <input
                    className="input input-xs flex-1"
                    value={now[k]}
                    onChange={(e) => fill({ ...now, [k]: e.target.value })}
                  />
                </label>
              ))}
              <div className="flex items-center gap-2">
                <span className="w-32">General tolerance</span>
                <ToleranceFields
                  whole
                  tolerance={now.general ?? draft.general}
                  change={(general) => general && fill({ ...now, general })}
                />
              </div>
              <TitleBlock
                owner={now.issuedBy ?? draft.issuedBy}
                block={now.titleBlock ?? draft.titleBlock}
                change={(issuedBy, titleBlock) => fill({ ...now, issuedBy, titleBlock })}
              />
              <Field label="Task">
                <textarea
                  className="textarea textarea-sm w-full"
                  rows={3}
                  value={now.task}
                  onChange={(e) => fill({ ...now, task: e.target.value })}
                />
              </Field>
              <WhatIfs
                list={now.whatIfs ?? draft.whatIfs}
                faults={now.whatIfs === draft.whatIfs ? draft.whatIfFaults : []}
                driving={draft.driving}
                files={now.whatIfFiles ?? draft.whatIfFiles}
                change={(whatIfs, whatIfFiles) => fill({ ...now, whatIfs, whatIfFiles })}
              />
              <PersonalSizes
                list={now.personal ?? draft.personal}
                fault={now.personal === draft.personal ? draft.personalFault : undefined}
                possible={now.personal === draft.personal ? draft.possible : undefined}
                driving={draft.driving}
                change={(personal) => fill({ ...now, personal })}
              />
              <PointFields
                rubric={now.rubric ?? draft.rubric}
                setRubric={(rubric) => fill({ ...now, rubric })}
              />
              <DeductionFields
                rubric={now.rubric ?? draft.rubric}
                setRubric={(rubric) => fill({ ...now, rubric })}
                faults={draft.capFaults}
              />
              <label className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={layOut}
                  onChange={(e) => setArrange(e.target.checked)}
                />
                lay the sheet out anew{draft.dimensioned > 0 && ", in the place of its layout now"}
              </label>
            </div>
          </div>
        </div>
      </div>
    </div>
  );
}
