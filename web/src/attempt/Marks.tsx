import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useRef } from "react";
import { type Attempt, Problem, ask, client, queries } from "../api/client";
import { points, when } from "../app/format";
import { useKept } from "../app/keep";
import { usePlainKeys } from "../app/usePlainKeys";
import { Trouble } from "../controls/notices";
import { Field } from "../controls/Field";
import { OwnRemarks } from "../review/OwnRemarks";

type Mark = Attempt["marks"][number];

function MarkRow({ attempt, mark, open }: { attempt: number; mark: Mark; open: boolean }) {
  const fresh = { editing: false, value: String(mark.points), reason: "" };
  const { value: typed, set: type, drop } = useKept(`mark/${attempt}/${mark.id}`, fresh);
  const { editing, value, reason } = typed;
  const save = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/attempts/{id}/marks/{mark}", {
          params: { path: { id: attempt, mark: mark.id } },
          body: { points: Number(value), reason },
        }),
      ),
    onSuccess: () => {
      drop(fresh);
      void queries.invalidateQueries();
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate();
  };
  return (
    <li className="px-4 py-1.5" data-mark={mark.id}>
      <div className="flex items-baseline gap-2">
        <span className="mr-auto">
          {mark.label}
          {mark.ask && " (needs a look)"}
        </span>
        <span className="font-semibold">
          {mark.outOf > 0 ? `${points(mark.points)} of ${points(mark.outOf)}` : points(mark.points)}
        </span>
        {open && (
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-label={`Change ${mark.label}`}
            aria-expanded={editing}
            onClick={() => (editing ? drop(fresh) : type({ ...fresh, editing: true }))}
          >
            Change
          </button>
        )}
      </div>
      <p className="text-xs opacity-90">
        {mark.reason}
        {mark.changedBy &&
          `. Changed from ${points(mark.machinePoints)} by ${mark.changedBy}: ` +
            mark.changedReason}
      </p>
      {mark.lost && mark.lost.length > 0 && (
        <details className="text-xs">
          <summary className="cursor-pointer">where the points went</summary>
          <ul className="pl-3">
            {mark.lost.map((l) => (
              <li key={l.what} className="flex justify-between gap-2">
                <span>{l.what}</span>
                <span>−{points(l.points)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      {editing && (
        <form onSubmit={submit} className="mt-1 flex flex-wrap gap-2">
          <input
            aria-label="Points"
            className="input input-xs w-20"
            type="number"
            step="any"
            min={Math.min(0, mark.machinePoints)}
            max={mark.outOf}
            required
            value={value}
            onChange={(e) => type({ ...typed, value: e.target.value })}
            autoFocus
          />
          <input
            aria-label="Reason"
            className="input input-xs min-w-40 flex-1"
            placeholder="Reason, for the student to read"
            required
            value={reason}
            onChange={(e) => type({ ...typed, reason: e.target.value })}
          />
          <button type="submit" className="btn btn-primary btn-xs" disabled={save.isPending}>
            Keep
          </button>
          {save.error && <Trouble error={save.error} />}
        </form>
      )}
    </li>
  );
}

/** Marks by rubric, each changeable with a reason, and the return. */
export function Marks({
  attempt,
  mayMark,
  mayReturn,
}: {
  attempt: Attempt;
  mayMark: boolean;
  mayReturn: boolean;
}) {
  const id = attempt.row.id;
  const { value: comment, again, set: setComment, drop } = useKept(`comment/${id}`, "");
  const top = useRef<HTMLParagraphElement>(null);
  const giveBack = useMutation({
    mutationFn: (looked: boolean) =>
      ask(
        client.POST("/attempts/{id}/return", {
          params: { path: { id } },
          body: { comment, looked },
        }),
      ),
    onSuccess: async () => {
      drop("");
      await queries.invalidateQueries();
      top.current?.focus(); // the button that had the focus is gone
    },
  });
  const takeBack = useMutation({
    mutationFn: () => ask(client.DELETE("/attempts/{id}/return", { params: { path: { id } } })),
    onSuccess: async () => {
      setComment(attempt.return?.comment ?? "");
      await queries.invalidateQueries();
    },
  });
  const asks = giveBack.error instanceof Problem && giveBack.error.code === "look-first";
  const open = attempt.row.state === "checked";
  const opened = attempt.return?.opened;
  const field = useRef<HTMLTextAreaElement>(null);
  const mayUndo = mayReturn && !!attempt.return && !takeBack.isPending;
  usePlainKeys((key) => {
    if (key === "r" && open && mayReturn && !giveBack.isPending) giveBack.mutate(false);
    if (key === "R" && asks && !giveBack.isPending) giveBack.mutate(true);
    if (key === "c" && open && mayReturn) window.setTimeout(() => field.current?.focus());
    if (key === "u" && mayUndo) takeBack.mutate();
  });
  return (
    <div className="text-sm">
      <ul className="divide-y divide-base-300">
        {attempt.marks.map((m) => (
          <MarkRow key={m.id} attempt={id} mark={m} open={open && mayMark} />
        ))}
      </ul>
      <p className="border-t border-base-300 px-4 py-2 text-right font-semibold">
        {points(attempt.points)} of {points(attempt.outOf)} points
      </p>
      {attempt.return && (
        <div className="border-t border-base-300 px-4 py-2">
          <p ref={top} tabIndex={-1} className="focus:outline-none">
            Returned by {attempt.return.by}, {when(attempt.return.at)}.{" "}
            <a className="link" href={`/api/attempts/${id}/return.pdf`}>
              Download as PDF
            </a>
          </p>
          {attempt.return.comment && (
            <blockquote className="mt-1 border-l-4 border-primary pl-3 whitespace-pre-wrap">
              {attempt.return.comment}
            </blockquote>
          )}
          {mayReturn && (
            <p className="mt-1">
              <button
                type="button"
                className="btn btn-xs"
                disabled={takeBack.isPending}
                onClick={() => takeBack.mutate()}
              >
                {opened ? "Take the return back" : "Undo the return"}{" "}
                <kbd className="kbd kbd-xs">u</kbd>
              </button>{" "}
              <span className="text-xs">
                {opened
                  ? `The student opened it ${when(opened)}; until the student hands in again.`
                  : "The student has not opened it."}
              </span>
            </p>
          )}
          {takeBack.error && <Trouble error={takeBack.error} />}
        </div>
      )}
      {open && mayReturn && (
        <form
          className="flex flex-col gap-2 border-t border-base-300 p-4"
          onSubmit={(e) => {
            e.preventDefault();
            if (!giveBack.isPending) giveBack.mutate(false);
          }}
        >
          <Field label="Comment">
            <textarea
              ref={field}
              className="textarea w-full"
              rows={3}
              onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
              value={comment}
              onChange={(e) => setComment(e.target.value)}
              placeholder="In your own words; the findings go with it"
            />
          </Field>
          <p className="text-xs">
            {"{name}, {first name}, {points}, {out of} and {percent}"} become each student’s own.
          </p>
          <OwnRemarks issue={attempt.issue.id} finding="" take={setComment} />
          {again && comment !== "" && (
            <p className="text-xs" role="status">
              You typed this before; it is kept in this browser until the return.
            </p>
          )}
          {giveBack.error && <Trouble error={giveBack.error} />}
          {asks && (
            <button
              type="button"
              className="btn btn-sm"
              disabled={giveBack.isPending}
              onClick={() => giveBack.mutate(true)}
            >
              I have looked at these: return it <kbd className="kbd kbd-xs">R</kbd>
            </button>
          )}
          <button type="submit" className="btn btn-primary btn-sm" disabled={giveBack.isPending}>
            {giveBack.isPending ? "Returning …" : "Return to the student"}{" "}
            <kbd className="kbd kbd-xs text-base-content">r</kbd>
          </button>
        </form>
      )}
    </div>
  );
}
