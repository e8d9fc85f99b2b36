import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { type IssueDetail, type Schemas, ask, client, queries } from "../api/client";
import { inZone, localTime, when } from "../app/format";
import { useKept } from "../app/keep";
import { Panel, Trouble } from "../controls/notices";
import { Field, Tick } from "../controls/Field";

const again = { onSuccess: () => queries.invalidateQueries() };

/** The terms of an issue, for all and for each student, closing it and taking it back. */
export function Terms({ d }: { d: IssueDetail }) {
  return (
    <div className="flex flex-col gap-3 px-4 py-3 text-sm">
      <ForAll d={d} />
      <Extensions d={d} />
      <Ending d={d} />
    </div>
  );
}

function ForAll({ d }: { d: IssueDetail }) {
  const { issue } = d;
  const was = {
    due: localTime(issue.due),
    opens: issue.opens ? localTime(issue.opens) : "",
    attempts: issue.attempts,
    results: issue.results,
  };
  const [terms, set] = useState(was);
  const change = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/issues/{id}", {
          params: { path: { id: issue.id } },
          body: {
            due: new Date(terms.due).toISOString(),
            ...(terms.opens && { opens: new Date(terms.opens).toISOString() }),
            attempts: terms.attempts,
            results: terms.results,
          },
        }),
      ),
    ...again,
  });
  const same = JSON.stringify(was) === JSON.stringify(terms);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate();
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2">
      <Field label="Due" className="min-w-44 flex-1">
        <input
          type="datetime-local"
          className="input input-sm w-full"
          required
          value={terms.due}
          onChange={(e) => set({ ...terms, due: e.target.value })}
        />
      </Field>
      <Field label="Attempts" className="w-20">
        <input
          type="number"
          min={1}
          max={50}
          className="input input-sm w-full"
          required
          value={terms.attempts}
          onChange={(e) => set({ ...terms, attempts: Number(e.target.value) })}
        />
      </Field>
      <Field label="Seen from" className="min-w-44 flex-1">
        <input
          type="datetime-local"
          className="input input-sm w-full"
          value={terms.opens}
          onChange={(e) => set({ ...terms, opens: e.target.value })}
        />
      </Field>
      {!issue.practice && (
        <Field label="The check is seen" className="w-36">
          <select
            className="select select-sm w-full"
            value={terms.results}
            onChange={(e) => set({ ...terms, results: e.target.value as typeof terms.results })}
          >
            <option>with the return</option>
            <option>at once</option>
          </select>
        </Field>
      )}
      <button type="submit" className="btn btn-sm" disabled={same || change.isPending}>
        Change
      </button>
      {change.isSuccess && same && (
        <p role="status">Due {inZone(issue.due, issue.zone ?? "UTC")}.</p>
      )}
      {change.error && <Trouble error={change.error} />}
    </form>
  );
}

type Issued = Schemas["IssuedTo"];

function own(x: Issued) {
  const e = x.extension;
  return [
    e.due && `due ${when(e.due)}`,
    e.more > 0 && `${e.more} ${e.more === 1 ? "attempt" : "attempts"} more`,
    e.more < 0 && `${-e.more} ${e.more === -1 ? "attempt" : "attempts"} fewer`,
    e.excused && "excused",
  ]
    .filter(Boolean)
    .join(", ");
}

/** More time, further attempts and being excused, for one student. */
function Extensions({ d }: { d: IssueDetail }) {
  const students = d.students ?? [];
  const [student, choose] = useState(0);
  const chosen = students.find((s) => s.id === student);
  const extended = students.filter((s) => own(s) !== "");
  if (students.length === 0) return null;
  return (
    <div className="flex flex-col gap-2 border-t border-base-300 pt-3">
      {d.groups && (
        <p>
          Issued to {d.groups.map((g) => `group ${g}`).join(", ")}: those too who come into it
          later.
        </p>
      )}
      <Field label="For one student">
        <select
          className="select select-sm w-full"
          value={student}
          onChange={(e) => choose(Number(e.target.value))}
        >
          <option value={0}>choose</option>
          {students.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </Field>
      {chosen && <Extension key={`${chosen.id} ${own(chosen)}`} issue={d.issue} student={chosen} />}
      {extended.length > 0 && (
        <ul aria-label="Extensions">
          {extended.map((s) => (
            <li key={s.id}>
              {s.name}: {own(s)}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Extension({ issue, student }: { issue: Schemas["Issue"]; student: Issued }) {
  const e = student.extension;
  const [due, setDue] = useState(e.due ? localTime(e.due) : "");
  const [more, setMore] = useState(e.more);
  const [excused, setExcused] = useState(e.excused);
  const extend = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/issues/{id}/extensions/{person}", {
          params: { path: { id: issue.id, person: student.id } },
          body: { ...(due && { due: new Date(due).toISOString() }), more, excused },
        }),
      ),
    ...again,
  });
  const submit = (ev: FormEvent) => {
    ev.preventDefault();
    extend.mutate();
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2">
      <Field label={`Due for ${student.name}`} className="min-w-44 flex-1">
        <input
          type="datetime-local"
          className="input input-sm w-full"
          value={due}
          onChange={(ev) => setDue(ev.target.value)}
        />
      </Field>
      <Field label="Attempts more" className="w-28">
        <input
          type="number"
          min={-50}
          max={50}
          className="input input-sm w-full"
          value={more}
          onChange={(ev) => setMore(Number(ev.target.value))}
        />
      </Field>
      <Tick label="excused" on={excused} set={setExcused} />
      <button type="submit" className="btn btn-sm" disabled={extend.isPending}>
        Give it
      </button>
      {extend.error && <Trouble error={extend.error} />}
    </form>
  );
}

/** Whose sheet is which, where every student has sizes of the own. */
export function PersonalSheets({ d }: { d: IssueDetail }) {
  if (!d.issue.personal) return null;
  return (
    <Panel title="Personal sizes">
      <p className="px-4 pt-2 text-sm">
        The sheet shown here is the plain one, which no student has.
      </p>
      <ul className="max-h-72 overflow-auto px-4 py-2 text-sm" tabIndex={0} aria-label="Sheets">
        {(d.students ?? []).map((s) => (
          <li key={s.id} className="py-0.5">
            {s.variant ? (
              <>
                <a
                  className="link"
                  target="_blank"
                  rel="noreferrer"
                  href={`/api/issues/${d.issue.id}/sheet?format=svg&student=${s.id}`}
                >
                  {s.name}
                </a>
                , sizes {s.variant}: {s.sizes}
              </>
            ) : (
              `${s.name}: drawn when the exercise is opened for the first time`
            )}
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** Closing an issue and withdrawing it, and both taken back. */
function Ending({ d }: { d: IssueDetail }) {
  const path = { id: d.issue.id };
  const [sure, setSure] = useState(false);
  const close = useMutation({
    mutationFn: (closed: boolean) =>
      ask(client.PUT("/issues/{id}/closed", { params: { path }, body: { closed } })),
    ...again,
  });
  const withdraw = useMutation({
    mutationFn: () =>
      ask(client.DELETE("/issues/{id}", { params: { path, query: { anyway: true } } })),
    onSuccess: () => {
      setSure(false);
      void queries.invalidateQueries();
    },
  });
  const back = useMutation({
    mutationFn: () => ask(client.POST("/issues/{id}/back", { params: { path } })),
    ...again,
  });
  if (d.issue.withdrawn)
    return (
      <div className="flex flex-wrap items-center gap-2 border-t border-base-300 pt-3">
        <span className="mr-auto">
          Withdrawn {when(d.issue.withdrawn)}: students do not see it, and nothing of it counts.
        </span>
        <button
          type="button"
          className="btn btn-sm"
          disabled={back.isPending}
          onClick={() => back.mutate()}
        >
          Bring it back
        </button>
        {back.error && <Trouble error={back.error} />}
      </div>
    );
  const handedIn = d.attempts.length;
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-base-300 pt-3">
      {d.issue.closed && <span className="w-full">Closed {when(d.issue.closed)}.</span>}
      <button
        type="button"
        className="btn btn-sm"
        disabled={close.isPending}
        onClick={() => close.mutate(!d.issue.closed)}
      >
        {d.issue.closed ? "Reopen" : "Close: nobody hands in any more"}
      </button>
      {!sure && (
        <button type="button" className="btn btn-sm" onClick={() => setSure(true)}>
          Withdraw the issue
        </button>
      )}
      {sure && (
        <p className="flex flex-wrap items-center gap-2">
          Students will not see it any more.
          {handedIn > 0 &&
            ` What was handed in (${handedIn}) stays with you and counts for nothing.`}
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
      )}
      {close.error && <Trouble error={close.error} />}
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
          <Field
            label={
              "Comment for all of them; {name}, {first name}, {points}, {out of} and {percent} " +
              "become each one’s own"
            }
          >
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
