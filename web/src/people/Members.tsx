import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { when } from "../app/format";
import { useKept } from "../app/keep";
import { Field, LoginField } from "../controls/Field";
import { Panel, Trouble } from "../controls/notices";

type Member = Schemas["Member"];

/** Takes somebody out of a class, after asking. */
export function TakeOut({ classId, member }: { classId: number; member: Member }) {
  const [sure, setSure] = useState(false);
  const leave = useMutation({
    mutationFn: () =>
      ask(
        client.DELETE("/classes/{id}/members/{person}", {
          params: { path: { id: classId, person: member.id } },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  if (!sure)
    return (
      <button
        type="button"
        className="btn btn-xs whitespace-nowrap"
        aria-label={`Take out ${member.name}`}
        onClick={() => setSure(true)}
      >
        Take out
      </button>
    );
  return (
    <span className="flex flex-wrap items-center gap-1 text-sm">
      What was handed in stays.
      <button
        type="button"
        className="btn btn-primary btn-xs"
        disabled={leave.isPending}
        onClick={() => leave.mutate()}
      >
        Take out
      </button>
      <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
        Cancel
      </button>
      {leave.error && <Trouble error={leave.error} />}
    </span>
  );
}

/** How many hours after the others a student hands in; kept when the field is left. */
export function ExtraTime({ classId, member }: { classId: number; member: Member }) {
  const [hours, set] = useState(String(member.extra ?? 0));
  const save = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/classes/{id}/members/{person}", {
          params: { path: { id: classId, person: member.id } },
          body: { extra: Number(hours) },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <>
      <input
        type="number"
        min={0}
        max={744}
        className="input input-xs w-16"
        aria-label={`Extra hours of ${member.name}`}
        value={hours}
        onChange={(e) => set(e.target.value)}
        onBlur={() => Number(hours) !== (member.extra ?? 0) && save.mutate()}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      {save.error && <Trouble error={save.error} />}
    </>
  );
}

/** Takes somebody who has left into the class again. */
function Back({ classId, member }: { classId: number; member: Member }) {
  const join = useMutation({
    mutationFn: () =>
      ask(
        client.POST("/classes/{id}/members", {
          params: { path: { id: classId } },
          body: { login: member.login, role: member.role },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <>
      <button
        type="button"
        className="btn btn-xs"
        aria-label={`Take back ${member.name}`}
        disabled={join.isPending}
        onClick={() => join.mutate()}
      >
        Take back
      </button>
      {join.error && <Trouble error={join.error} />}
    </>
  );
}

/** Who teaches a class and helps in it, and who has left. */
export function Members({
  classId,
  members,
  may,
}: {
  classId: number;
  members: Member[];
  may: boolean;
}) {
  const empty = { login: "", role: "assistant" as Schemas["Role"] };
  const { value, set, drop } = useKept(`member/${classId}`, empty);
  const add = useMutation({
    mutationFn: () =>
      ask(client.POST("/classes/{id}/members", { params: { path: { id: classId } }, body: value })),
    onSuccess: () => {
      drop(empty);
      void queries.invalidateQueries();
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    add.mutate();
  };
  const staff = members.filter((m) => m.role !== "student" && !m.until);
  const left = members.filter((m) => m.until);
  return (
    <>
      <Panel title="Instructors and assistants">
        <ul className="divide-y divide-base-300 text-sm">
          {staff.map((m) => (
            <li key={m.id} className="flex items-center gap-2 px-4 py-2">
              <span className="mr-auto">
                {m.name}, {m.role}
              </span>
              {may && <TakeOut classId={classId} member={m} />}
            </li>
          ))}
        </ul>
        {may && (
          <form
            onSubmit={submit}
            className="flex flex-wrap items-end gap-2 border-t border-base-300 px-4 py-3 text-sm"
          >
            <LoginField
              label="Login of somebody with an account"
              className="min-w-40 flex-1"
              value={value.login}
              set={(login) => set({ ...value, login })}
            />
            <Field label="as">
              <select
                className="select select-sm w-32"
                value={value.role}
                onChange={(e) => set({ ...value, role: e.target.value as Schemas["Role"] })}
              >
                <option>instructor</option>
                <option>assistant</option>
                <option>student</option>
              </select>
            </Field>
            <button type="submit" className="btn btn-sm" disabled={add.isPending}>
              Add
            </button>
            {add.error && <Trouble error={add.error} />}
          </form>
        )}
      </Panel>
      {left.length > 0 && (
        <Panel title="Have left">
          <ul className="divide-y divide-base-300 text-sm">
            {left.map((m) => (
              <li key={m.id} className="flex items-center gap-2 px-4 py-2">
                <span className="mr-auto">
                  {m.name}, {m.role} until {when(m.until ?? "")}
                </span>
                {may && <Back classId={classId} member={m} />}
              </li>
            ))}
          </ul>
        </Panel>
      )}
    </>
  );
}
