import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { type IssueDetail, ask, client, queries } from "../api/client";
import { localTime, when } from "../app/format";
import { useKept } from "../app/keep";
import { Trouble } from "../controls/notices";
import { Field } from "../controls/Field";

const again = { onSuccess: () => queries.invalidateQueries() };

/** The terms of an issue: until when, a further attempt for somebody, and taking it back. */
export function Terms({ d }: { d: IssueDetail }) {
  const { id } = d.issue;
  const go = useNavigate();
  const [due, setDue] = useState(() => localTime(d.issue.due));
  const [student, setStudent] = useState(0);
  const [sure, setSure] = useState(false);
  const move = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/issues/{id}", {
          params: { path: { id } },
          body: { due: new Date(due).toISOString() },
        }),
      ),
    ...again,
  });
  const more = useMutation({
    mutationFn: (s: number) =>
      ask(client.POST("/issues/{id}/further", { params: { path: { id } }, body: { student: s } })),
    ...again,
  });
  const withdraw = useMutation({
    mutationFn: () => ask(client.DELETE("/issues/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      void queries.invalidateQueries();
      void go(`/exercises/${d.issue.exerciseId}`);
    },
  });
  const names = new Map(
    d.attempts.flatMap((a) => (a.studentId ? [[a.studentId, a.student] as const] : [])),
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    move.mutate();
  };
  return (
    <div className="flex flex-col gap-3 px-4 py-3 text-sm">
      <form onSubmit={submit} className="flex items-end gap-2">
        <Field label="Due" className="flex-1">
          <input
            type="datetime-local"
            className="input input-sm w-full"
            required
            value={due}
            onChange={(e) => setDue(e.target.value)}
          />
        </Field>
        <button
          type="submit"
          className="btn btn-sm"
          disabled={move.isPending || due === localTime(d.issue.due)}
        >
          Change
        </button>
      </form>
      {move.isSuccess && <p role="status">Due {when(d.issue.due)} now.</p>}
      {move.error && <Trouble error={move.error} />}
      {names.size > 0 && (
        <div className="flex items-end gap-2">
          <Field label="One attempt more for" className="flex-1">
            <select
              className="select select-sm w-full"
              value={student}
              onChange={(e) => {
                setStudent(Number(e.target.value));
                more.reset();
              }}
            >
              <option value={0}>choose</option>
              {[...names].map(([s, name]) => (
                <option key={s} value={s}>
                  {name}
                </option>
              ))}
            </select>
          </Field>
          <button
            type="button"
            className="btn btn-sm"
            disabled={student === 0 || more.isPending}
            onClick={() => more.mutate(student)}
          >
            Give it
          </button>
        </div>
      )}
      {more.isSuccess && <p role="status">{names.get(student)} has one attempt more.</p>}
      {more.error && <Trouble error={more.error} />}
      {d.attempts.length === 0 &&
        (sure ? (
          <p className="flex flex-wrap items-center gap-2">
            Students will not see it any more.{" "}
            <button
              type="button"
              className="btn btn-primary btn-xs"
              disabled={withdraw.isPending}
              onClick={() => withdraw.mutate()}
            >
              Withdraw it
            </button>
            <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
              Cancel
            </button>
          </p>
        ) : (
          <button type="button" className="btn btn-sm self-start" onClick={() => setSure(true)}>
            Withdraw the issue
          </button>
        ))}
      {withdraw.error && <Trouble error={withdraw.error} />}
    </div>
  );
}

/** Returns everything that is fully right, after a look at the list. */
export function ReturnRight({ id }: { id: number }) {
  const q = useQuery({
    queryKey: ["right", id],
    queryFn: () => ask(client.GET("/issues/{id}/right", { params: { path: { id } } })),
  });
  const [not, setNot] = useState<ReadonlySet<number>>(new Set());
  const { value: comment, set: setComment, drop } = useKept(`right/${id}`, "");
  const [open, setOpen] = useState(false);
  const list = q.data ?? [];
  const chosen = list.filter((a) => !not.has(a.id)).map((a) => a.id);
  const back = useMutation({
    mutationFn: () =>
      ask(
        client.POST("/issues/{id}/right", {
          params: { path: { id } },
          body: { attempts: chosen, comment },
        }),
      ),
    onSuccess: () => {
      drop("");
      setOpen(false);
      void queries.invalidateQueries();
    },
  });
  const put = (a: number, on: boolean) =>
    setNot((old) => {
      const next = new Set(old);
      if (on) next.delete(a);
      else next.add(a);
      return next;
    });
  return (
    <div className="px-4 py-3 text-sm">
      {q.error ? (
        <Trouble error={q.error} retry={() => void q.refetch()} />
      ) : list.length === 0 ? (
        <p>
          {back.isSuccess
            ? `${back.data.returned} returned.`
            : "No attempt that waits is fully right."}
        </p>
      ) : !open ? (
        <button type="button" className="btn btn-sm" onClick={() => setOpen(true)}>
          {list.length === 1 ? "1 attempt is" : `${list.length} attempts are`} fully right: return
          together …
        </button>
      ) : (
        <form
          className="flex flex-col gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            back.mutate();
          }}
        >
          <p>
            Every characteristic is in, and they have full marks. Look at whom you want to, and take
            out whom you do not want to return yet.
          </p>
          <ul>
            {list.map((a) => (
              <li key={a.id} className="flex items-center gap-2">
                <label className="flex flex-1 items-center gap-2">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    checked={!not.has(a.id)}
                    onChange={(e) => put(a.id, e.target.checked)}
                  />
                  {a.student}, attempt {a.number}
                  {a.late && ", late"}
                </label>
                <Link className="link" to={`/attempts/${a.id}`}>
                  look
                </Link>
              </li>
            ))}
          </ul>
          <Field label="Comment for all of them">
            <textarea
              className="textarea textarea-sm w-full"
              rows={2}
              value={comment}
              onChange={(e) => setComment(e.target.value)}
            />
          </Field>
          {back.error && <Trouble error={back.error} />}
          <div className="flex gap-2">
            <button
              type="submit"
              className="btn btn-primary btn-sm"
              disabled={chosen.length === 0 || back.isPending}
            >
              {back.isPending ? "Returning …" : `Return ${chosen.length}`}
            </button>
            <button type="button" className="btn btn-sm" onClick={() => setOpen(false)}>
              Not now
            </button>
          </div>
        </form>
      )}
    </div>
  );
}
