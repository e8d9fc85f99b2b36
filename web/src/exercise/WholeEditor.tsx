import { useMutation, useQuery } from "@tanstack/react-query";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { Field, Tick } from "../controls/Field";
import { Loading, Panel, Trouble } from "../controls/notices";
import { Table } from "../controls/Table";
import { DeductionFields, PointFields } from "../review/RubricFields";
import { Points } from "../review/Points";
import { WhatIfs } from "./WhatIfs";
import { RequirementFields, Add } from "./RequirementFields";

type Whole = Schemas["Whole"];
type Change = Schemas["WholeChange"];

const changeOf = (w: Whole): Change => ({
  version: w.version,
  title: w.title,
  task: w.task,
  assembly: w.assembly,
  rubric: w.rubric,
  whatIfs: w.whatIfs,
  whatIfFiles: w.whatIfFiles,
  uncut: w.uncut,
});

/** The items of the parts list: what is given, and what the others weigh. */
function Items({
  whole,
  now,
  set,
}: {
  whole: Whole;
  now: Change;
  set: (assembly: Change["assembly"]) => void;
}) {
  const { assembly } = now;
  const put = (part: string, change: Partial<Schemas["WholeItem"]>) => {
    const there = assembly.items.some((i) => i.part === part);
    const items = there ? assembly.items : [...assembly.items, { part }];
    set({ ...assembly, items: items.map((i) => (i.part === part ? { ...i, ...change } : i)) });
  };
  return (
    <Panel title="Items">
      <Table label="Items of the parts list">
        <thead>
          <tr>
            <th>Item</th>
            <th>Given</th>
            <th className="text-right">Weight</th>
          </tr>
        </thead>
        <tbody>
          {whole.can.parts.map((p) => {
            const i = assembly.items.find((x) => x.part === p.id);
            return (
              <tr key={p.id}>
                <td>{p.title}</td>
                <td>
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    aria-label={`${p.title} is given`}
                    checked={i?.given ?? false}
                    onChange={(e) => put(p.id, { given: e.target.checked || undefined })}
                  />
                </td>
                <td className="text-right">
                  {i?.given ? (
                    "–"
                  ) : whole.can.made.includes(p.id) ? (
                    <Points
                      label={`Weight of ${p.title}`}
                      most={1000}
                      value={i?.weight ?? 1}
                      set={(v) => put(p.id, { weight: v > 0 ? v : undefined })}
                    />
                  ) : (
                    "without a sheet"
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
      <p className="px-4 py-2 text-sm opacity-80">
        What is given has no sheet. Students download it, and are to leave it as it is.
      </p>
    </Panel>
  );
}

/** Which components the sections of the arrangement leave whole. */
function LeftWhole({
  whole,
  uncut,
  set,
}: {
  whole: Whole;
  uncut: string[];
  set: (uncut: string[]) => void;
}) {
  return (
    <Panel title="Left whole by sections">
      <ul aria-label="Left whole" className="flex flex-wrap gap-x-4 gap-y-1 px-4 py-2 text-sm">
        {whole.can.components.map((c) => (
          <li key={c.id}>
            <Tick
              label={c.title}
              on={uncut.includes(c.id)}
              set={(on) => set(on ? [...uncut, c.id] : uncut.filter((x) => x !== c.id))}
            />
          </li>
        ))}
      </ul>
      <p className="px-4 pb-2 text-sm opacity-80">
        Shafts, pins, keys, balls and bolts are not cut lengthwise.
      </p>
    </Panel>
  );
}

/** What is asked of the whole, each line a characteristic with its balloon. */
function Characteristics({
  whole,
  now,
  set,
}: {
  whole: Whole;
  now: Change;
  set: (assembly: Change["assembly"]) => void;
}) {
  const { assembly } = now;
  const list = assembly.characteristics;
  const replace = (id: string, by: Schemas["Requirement"] | null) =>
    set({
      ...assembly,
      characteristics: list.flatMap((c) => (c.id === id ? (by ? [by] : []) : [c])),
    });
  return (
    <Panel
      title="Characteristics of the whole"
      side={<span className="text-sm">{list.length}</span>}
    >
      <p className="flex gap-3 px-4 pt-2 text-sm font-semibold" aria-hidden>
        <span className="w-6" />
        <span className="flex-1">Label</span>
        <span className="w-20 text-right">Weight</span>
        <span className="w-16" />
      </p>
      <ul className="divide-y divide-base-300 text-sm">
        {list.map((c) => (
          <RequirementFields
            key={c.id}
            of={c}
            can={whole.can}
            change={(by) => replace(c.id, by)}
            remove={() => replace(c.id, null)}
          />
        ))}
      </ul>
      <Add
        can={whole.can}
        list={list}
        add={(c) => set({ ...assembly, characteristics: [...list, c] })}
      />
    </Panel>
  );
}

/** What an exercise asks of an assembly as a whole, to be changed and saved as a new version. */
export function WholeEditor({ id }: { id: number }) {
  const q = useQuery({
    queryKey: ["whole", id],
    queryFn: () => ask(client.GET("/exercises/{id}/whole", { params: { path: { id } } })),
  });
  if (q.error)
    return (
      <div className="p-4">
        <Trouble error={q.error} retry={() => void q.refetch()} />
      </div>
    );
  if (!q.data) return <Loading what="what is asked of the whole" />;
  return <Editor key={q.data.version} id={id} whole={q.data} />;
}

function Editor({ id, whole }: { id: number; whole: Whole }) {
  const begun = changeOf(whole);
  const {
    value: now,
    again,
    set,
    drop,
  } = useKept<Change>(`exercise ${id}, the whole of version ${whole.version}`, begun);
  const save = useMutation({
    mutationFn: () =>
      ask(client.PUT("/exercises/{id}/whole", { params: { path: { id } }, body: now })),
    onSuccess: () => {
      drop(now);
      return queries.invalidateQueries();
    },
  });
  const changed = JSON.stringify(now) !== JSON.stringify(begun);
  const setAssembly = (assembly: Change["assembly"]) => set({ ...now, assembly });
  return (
    <form
      className="flex h-full min-h-0 flex-col"
      onSubmit={(e) => {
        e.preventDefault();
        if (changed && !save.isPending) save.mutate();
      }}
    >
      {again && changed && (
        <p role="status" className="border-l-4 border-warning bg-base-200 px-4 py-2 text-sm">
          This was typed before and is not saved yet.
        </p>
      )}
      <div className="grid min-h-0 flex-1 gap-3 overflow-auto p-3 lg:grid-cols-[3fr_2fr]">
        <div className="flex flex-col gap-3">
          <Panel title="The exercise">
            <div className="flex flex-col gap-2 p-4 text-sm">
              <Field label="Title">
                <input
                  className="input input-sm w-full"
                  value={now.title}
                  required
                  onChange={(e) => set({ ...now, title: e.target.value })}
                />
              </Field>
              <Field label="Task">
                <textarea
                  className="textarea textarea-sm w-full"
                  rows={3}
                  value={now.task}
                  onChange={(e) => set({ ...now, task: e.target.value })}
                />
              </Field>
              <Tick
                label="either way in which the mechanism can be put together is right"
                on={now.assembly.branch === "any"}
                set={(on) => setAssembly({ ...now.assembly, branch: on ? "any" : undefined })}
              />
              <Tick
                label="look yourself at joints that a file without joints does not tell"
                on={now.assembly.unsaid === "ask"}
                set={(on) => setAssembly({ ...now.assembly, unsaid: on ? "ask" : undefined })}
              />
            </div>
          </Panel>
          <Characteristics whole={whole} now={now} set={setAssembly} />
        </div>
        <div className="flex flex-col gap-3">
          <Items whole={whole} now={now} set={setAssembly} />
          <LeftWhole whole={whole} uncut={now.uncut} set={(uncut) => set({ ...now, uncut })} />
          <WhatIfs
            list={now.whatIfs}
            faults={[]}
            driving={whole.can.driving}
            files={now.whatIfFiles}
            change={(whatIfs, whatIfFiles) => set({ ...now, whatIfs, whatIfFiles })}
          />
          <PointFields
            kind="assembly"
            rubric={now.rubric}
            setRubric={(rubric) => set({ ...now, rubric })}
          />
          <DeductionFields
            rubric={now.rubric}
            setRubric={(rubric) => set({ ...now, rubric })}
            faults={whole.faults}
          />
        </div>
      </div>
      <div className="flex items-center gap-3 border-t border-base-300 bg-base-100 px-3 py-2">
        <button
          type="submit"
          className="btn btn-primary btn-sm"
          disabled={!changed || save.isPending}
        >
          {save.isPending ? "Drawing the sheets …" : "Save as a new version"}
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={!changed || save.isPending}
          onClick={() => {
            drop(begun);
            save.reset();
          }}
        >
          Undo all changes
        </button>
        {save.error && <Trouble error={save.error} />}
        {save.isSuccess && !changed && <p role="status">Saved as version {whole.version}.</p>}
      </div>
    </form>
  );
}
