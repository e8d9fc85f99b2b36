import { useMutation } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { Field, Tick } from "../controls/Field";
import { Empty, Panel, Trouble } from "../controls/notices";

type Group = Schemas["ClassGroup"];
type Student = Schemas["Student"];

/** The groups that a student is in, in words. */
export const groupsOf = (groups: Group[], student: number) =>
  groups
    .filter((g) => g.students.includes(student))
    .map((g) => g.name)
    .join(", ");

/** Groups of a class: an exercise can be issued to some of them. */
export function Groups({
  id,
  groups,
  students,
}: {
  id: number;
  groups: Group[];
  students: Student[];
}) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <Panel title="Groups">
      <p className="px-4 pt-3 text-sm">
        An exercise can be issued to groups. What is issued to a group goes to those too who come
        into it later; who leaves it keeps what was issued already.
      </p>
      {groups.length === 0 && <Empty>There are no groups yet.</Empty>}
      <ul className="divide-y divide-base-300 text-sm">
        {groups.map((g) => (
          <li key={g.name} className="flex flex-col gap-2 px-4 py-2">
            <div className="flex items-baseline gap-2">
              <span className="font-semibold">{g.name}</span>
              <span className="mr-auto">
                {students
                  .filter((s) => g.students.includes(s.id))
                  .map((s) => s.name)
                  .join(", ")}
              </span>
              <button
                type="button"
                className="btn btn-xs"
                aria-expanded={open === g.name}
                aria-label={`Change the group ${g.name}`}
                onClick={() => setOpen(open === g.name ? null : g.name)}
              >
                Change
              </button>
            </div>
            {open === g.name && (
              <Change id={id} group={g} students={students} done={() => setOpen(null)} />
            )}
          </li>
        ))}
      </ul>
      <NewGroup id={id} students={students} />
    </Panel>
  );
}

/** Keeps a group, or a new one where it had no name. */
function useSetGroup(id: number, done: () => void) {
  return useMutation({
    mutationFn: (body: Group & { was?: string }) =>
      ask(client.PUT("/classes/{id}/groups", { params: { path: { id } }, body })),
    onSuccess: () => {
      done();
      void queries.invalidateQueries();
    },
  });
}

function Change({
  id,
  group,
  students,
  done,
}: {
  id: number;
  group: Group;
  students: Student[];
  done: () => void;
}) {
  const [value, set] = useState(group);
  const keep = useSetGroup(id, done);
  return (
    <Form
      value={value}
      set={set}
      students={students}
      keep={() => keep.mutate({ was: group.name, ...value })}
    >
      <button type="submit" className="btn btn-primary btn-sm" disabled={keep.isPending}>
        {value.students.length === 0 ? "End the group" : "Keep"}
      </button>
      <button type="button" className="btn btn-sm" onClick={done}>
        Cancel
      </button>
      {keep.error && <Trouble error={keep.error} />}
    </Form>
  );
}

function NewGroup({ id, students }: { id: number; students: Student[] }) {
  const empty: Group = { name: "", students: [] };
  const { value, set, drop } = useKept(`group/${id}`, empty);
  const make = useSetGroup(id, () => drop(empty));
  return (
    <details className="border-t border-base-300 px-4 py-3 text-sm" open={value.name !== ""}>
      <summary className="cursor-pointer font-semibold">New group</summary>
      <Form value={value} set={set} students={students} keep={() => make.mutate(value)}>
        <button
          type="submit"
          className="btn btn-primary btn-sm"
          disabled={make.isPending || value.students.length === 0}
        >
          Make the group
        </button>
        {make.error && <Trouble error={make.error} />}
      </Form>
    </details>
  );
}

/** The name of a group, and who is in it. */
function Form({
  value,
  set,
  students,
  keep,
  children,
}: {
  value: Group;
  set: (g: Group) => void;
  students: Student[];
  keep: () => void;
  children: ReactNode;
}) {
  const submit = (e: FormEvent) => {
    e.preventDefault();
    keep();
  };
  return (
    <form onSubmit={submit} className="flex flex-col gap-2 pt-2">
      <Field label="Name of the group" className="max-w-72">
        <input
          className="input input-sm w-full"
          required
          maxLength={60}
          value={value.name}
          onChange={(e) => set({ ...value, name: e.target.value })}
        />
      </Field>
      <div
        className="grid gap-1 sm:grid-cols-3 lg:grid-cols-4"
        role="group"
        aria-label="Who is in it"
      >
        {students.map((s) => (
          <Tick
            key={s.id}
            label={s.name}
            on={value.students.includes(s.id)}
            set={(on) =>
              set({
                ...value,
                students: on ? [...value.students, s.id] : value.students.filter((x) => x !== s.id),
              })
            }
          />
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-2">{children}</div>
    </form>
  );
}
