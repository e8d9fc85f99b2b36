import { useMutation } from "@tanstack/react-query";
import type { FormEvent, KeyboardEvent } from "react";
import { Link, useSearchParams } from "react-router";
import { type Attempt, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { Trouble } from "../controls/notices";
import { OwnRemarks } from "./OwnRemarks";
import { useClassView } from "./useClassView";

/** What stands for each student’s own in a remark for all. */
const blanks = "{name}, {first name}, {stated}, {measured} and {deviation}";

/** What the instructor says of one finding, for this attempt or for all that have it. */
export function RemarkOn({ data, finding }: { data: Attempt; finding: string }) {
  const view = useClassView(data.issue.id);
  const group = view.data?.groups.find((g) => g.key === finding);
  const others = (group?.attempts ?? []).filter((id) => id !== data.row.id);
  const mine = data.remarks.find((r) => r.finding === finding);
  // Come here to write one remark for all: the field is open, and it is for all.
  const forAll = useSearchParams()[0].get("remark") === finding;
  const fresh = {
    editing: forAll && data.row.state === "checked",
    text: mine?.text ?? "",
    all: forAll,
  };
  const { value: typed, set: type, drop } = useKept(`remark/${data.row.id}/${finding}`, fresh);
  const { editing, text, all } = typed;
  const save = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/issues/{id}/remarks", {
          params: { path: { id: data.issue.id } },
          body: { finding, text, attempts: all ? [data.row.id, ...others] : [data.row.id] },
        }),
      ),
    onSuccess: () => {
      drop({ ...fresh, editing: false });
      void queries.invalidateQueries();
    },
  });
  const open = data.row.state === "checked";
  /** Ctrl and Enter keep, Esc cancels, and the arrow down takes what was said before. */
  const keys = (e: KeyboardEvent<HTMLTextAreaElement>) => {
    if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) e.currentTarget.form?.requestSubmit();
    if (e.key === "Escape") drop({ ...fresh, editing: false });
    if (e.key === "ArrowDown" && text === "")
      e.currentTarget.form?.querySelector<HTMLElement>("[data-own]")?.click();
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate();
  };
  return (
    <div className="mt-0.5">
      {mine && !editing && (
        <blockquote className="border-l-4 border-primary pl-3 whitespace-pre-wrap">
          {mine.text}
        </blockquote>
      )}
      <p className="flex flex-wrap items-center gap-x-3 text-xs">
        {open && !editing && (
          <button
            type="button"
            className="link"
            data-add-remark={mine ? undefined : ""}
            onClick={() => type({ ...fresh, editing: true })}
          >
            {mine ? "Change the remark" : "Add a remark"}
          </button>
        )}
        {others.length > 0 && (
          <details>
            <summary className="cursor-pointer">
              {others.length === 1
                ? "One other student has this"
                : `${others.length} other students have this`}
            </summary>
            <span className="flex flex-wrap gap-x-2">
              {others.map((id) => (
                <Link key={id} className="link" to={`/attempts/${id}`}>
                  {view.data?.attempts.find((a) => a.row.id === id)?.row.student ?? id}
                </Link>
              ))}
            </span>
          </details>
        )}
      </p>
      {editing && (
        <form onSubmit={submit} className="flex flex-col gap-1">
          <textarea
            aria-label="Remark"
            className="textarea textarea-sm w-full"
            rows={2}
            maxLength={4000}
            value={text}
            onChange={(e) => type({ ...typed, text: e.target.value })}
            onKeyDown={keys}
            placeholder="For the student to read, with the return; empty takes it back"
            autoFocus
          />
          {all && others.length > 0 && (
            <p className="text-xs">{blanks} become each student’s own.</p>
          )}
          <OwnRemarks
            issue={data.issue.id}
            finding={finding}
            take={(own) => type({ ...typed, text: own })}
          />
          <div className="flex flex-wrap items-center gap-2 text-xs">
            {others.length > 0 && (
              <label className="flex items-center gap-1">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={all}
                  onChange={(e) => type({ ...typed, all: e.target.checked })}
                />
                the same for all {others.length + 1} who have this
              </label>
            )}
            <button
              type="submit"
              className="btn btn-primary btn-xs ml-auto"
              disabled={save.isPending}
            >
              Keep
            </button>
            <button
              type="button"
              className="btn btn-xs"
              onClick={() => drop({ ...fresh, editing: false })}
            >
              Cancel
            </button>
          </div>
          {save.error && <Trouble error={save.error} />}
        </form>
      )}
    </div>
  );
}
