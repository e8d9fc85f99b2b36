import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { when } from "../app/format";
import { Field, LoginField } from "../controls/Field";
import { Panel, Trouble } from "../controls/notices";

type Exercise = Schemas["Exercise"];
const again = { onSuccess: () => queries.invalidateQueries() };

/** With whom an exercise is shared, its tags, and what can be done with it as a whole. */
export function SharingPanel({ exercise }: { exercise: Exercise }) {
  return (
    <Panel title="Sharing">
      <div className="flex flex-col gap-3 px-4 py-3 text-sm">
        <p>Made by {exercise.maker}.</p>
        {exercise.mayShare ? (
          <Shares exercise={exercise} />
        ) : (
          exercise.shares.length > 0 && (
            <p>Shared with {exercise.shares.map((s) => `${s.name} (to ${s.may})`).join(", ")}.</p>
          )
        )}
        {exercise.mayChange ? (
          <Tags key={exercise.tags.join()} exercise={exercise} />
        ) : (
          exercise.tags.length > 0 && <p>Tags: {exercise.tags.join(", ")}</p>
        )}
        <Whole exercise={exercise} />
      </div>
    </Panel>
  );
}

function Shares({ exercise }: { exercise: Exercise }) {
  const empty = { login: "", may: "use" as Schemas["Sharing"] };
  const { value, set, drop } = useKept(`share/${exercise.id}`, empty);
  const share = useMutation({
    mutationFn: (body: { login: string; may?: Schemas["Sharing"] }) =>
      ask(client.PUT("/exercises/{id}/shares", { params: { path: { id: exercise.id } }, body })),
    onSuccess: () => {
      drop(empty);
      void queries.invalidateQueries();
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    share.mutate(value);
  };
  return (
    <>
      {exercise.shares.length > 0 && (
        <ul className="flex flex-col gap-1" aria-label="Shared with">
          {exercise.shares.map((s) => (
            <li key={s.login} className="flex items-center gap-2">
              <span className="mr-auto">
                {s.name}, to {s.may}
              </span>
              <button
                type="button"
                className="btn btn-xs"
                aria-label={`Take back from ${s.name}`}
                disabled={share.isPending}
                onClick={() => share.mutate({ login: s.login })}
              >
                Take back
              </button>
            </li>
          ))}
        </ul>
      )}
      <form onSubmit={submit} className="flex items-end gap-2">
        <LoginField
          label="Colleague’s login"
          className="min-w-0 flex-1"
          value={value.login}
          set={(login) => set({ ...value, login })}
        />
        <Field label="to">
          <select
            className="select select-sm w-24"
            value={value.may}
            onChange={(e) => set({ ...value, may: e.target.value as Schemas["Sharing"] })}
          >
            <option value="use">use</option>
            <option value="change">change</option>
          </select>
        </Field>
        <button type="submit" className="btn btn-sm" disabled={share.isPending}>
          Share
        </button>
      </form>
      {share.error && <Trouble error={share.error} />}
    </>
  );
}

function Tags({ exercise }: { exercise: Exercise }) {
  const [text, setText] = useState(exercise.tags.join(", "));
  const tag = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/exercises/{id}/tags", {
          params: { path: { id: exercise.id } },
          body: { tags: text.split(",") },
        }),
      ),
    ...again,
  });
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        tag.mutate();
      }}
    >
      <Field label="Tags, with commas between" className="min-w-0 flex-1">
        <input
          className="input input-sm w-full"
          value={text}
          placeholder="first year, turning"
          onChange={(e) => setText(e.target.value)}
        />
      </Field>
      <button
        type="submit"
        className="btn btn-sm"
        disabled={tag.isPending || text === exercise.tags.join(", ")}
      >
        Keep
      </button>
      {tag.error && <Trouble error={tag.error} />}
    </form>
  );
}

function Whole({ exercise }: { exercise: Exercise }) {
  const { id } = exercise;
  const go = useNavigate();
  const [sure, setSure] = useState(false);
  const copy = useMutation({
    mutationFn: () => ask(client.POST("/exercises/{id}/copy", { params: { path: { id } } })),
    onSuccess: (made) => {
      void queries.invalidateQueries();
      void go(`/exercises/${made.id}`);
    },
  });
  const archive = useMutation({
    mutationFn: (archived: boolean) =>
      ask(client.PUT("/exercises/{id}/archived", { params: { path: { id } }, body: { archived } })),
    ...again,
  });
  const remove = useMutation({
    mutationFn: () => ask(client.DELETE("/exercises/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["exercises"] });
      void go("/exercises");
    },
  });
  return (
    <>
      {exercise.archived && <p role="status">Archived {when(exercise.archived)}.</p>}
      <div className="flex flex-wrap gap-2">
        {exercise.mayUse && (
          <button
            type="button"
            className="btn btn-sm"
            disabled={copy.isPending}
            onClick={() => copy.mutate()}
          >
            {copy.isPending ? "Copying …" : "Make a copy"}
          </button>
        )}
        {exercise.mayShare && (
          <button
            type="button"
            className="btn btn-sm"
            disabled={archive.isPending}
            onClick={() => archive.mutate(!exercise.archived)}
          >
            {exercise.archived ? "Bring it back" : "Archive"}
          </button>
        )}
        {exercise.mayShare && exercise.issues.length === 0 && !sure && (
          <button type="button" className="btn btn-sm" onClick={() => setSure(true)}>
            Remove
          </button>
        )}
      </div>
      {sure && (
        <p className="flex flex-wrap items-center gap-2">
          It is gone with all its versions.
          <button
            type="button"
            className="btn btn-primary btn-xs"
            disabled={remove.isPending}
            onClick={() => remove.mutate()}
          >
            Remove it
          </button>
          <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
            Cancel
          </button>
        </p>
      )}
      {[copy, archive, remove].map((m, i) => m.error && <Trouble key={i} error={m.error} />)}
    </>
  );
}
