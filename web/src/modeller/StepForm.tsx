import type { Problem } from "../api/client";
import { sentence } from "../controls/notices";
import { FileField, FormulaField, PickField } from "./fields";
import {
  type Form,
  type FormField,
  type Part,
  type Step,
  counts,
  picked,
  valueAt,
  withValue,
} from "./types";

const words: Record<string, string> = {
  "": "–",
  "one-side": "one side",
  "two-sides": "two sides",
  "to-face": "to a face",
  "to-next": "to the next face",
  new: "a new solid",
  add: "add",
  cut: "cut",
  intersect: "keep what is common",
  "three-points": "through three points",
  normal: "across an edge",
};

interface Props {
  form: Form;
  step: Step;
  isNew: boolean;
  change: (s: Step) => void;
  /** The part before the step, in which things are picked. */
  before: Part | undefined;
  /** The part with the step. */
  after: Part | undefined;
  sketches: { id: string; name: string; gives: string }[];
  active: string | null;
  activate: (path: string | null) => void;
  hover: (key: string | null) => void;
  busy: boolean;
  error: Problem | null;
  keep: () => void;
  cancel: () => void;
}

function Control({ field, p, first }: { field: FormField; p: Props; first: boolean }) {
  const value = valueAt(p.step, field.path);
  const set = (v: unknown) => p.change(withValue(p.step, field.path, v));
  const props = { field, step: p.step, value, set };
  switch (field.kind) {
    case "length":
    case "angle":
    case "number":
      return <FormulaField {...props} first={first} />;
    case "text":
      return (
        <input
          className="input input-xs w-full"
          aria-label={field.label}
          value={String(value ?? "")}
          onChange={(e) => set(e.target.value)}
        />
      );
    case "choice":
      return (
        <select
          className="select select-xs w-full"
          aria-label={field.label}
          value={String(value ?? field.default ?? "")}
          onChange={(e) => set(e.target.value)}
        >
          {(field.options ?? []).map((o) => (
            <option key={o} value={o}>
              {field.path === "extent.kind" && o === "" ? "a full turn" : (words[o] ?? o)}
            </option>
          ))}
        </select>
      );
    case "flag":
      return (
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          aria-label={field.label}
          checked={value === true}
          onChange={(e) => set(e.target.checked)}
        />
      );
    case "sketch":
    case "path":
      return (
        <select
          className="select select-xs w-full"
          aria-label={field.label}
          value={String(value ?? "")}
          onChange={(e) => set(e.target.value)}
        >
          <option value="">{field.optional ? "–" : "choose"}</option>
          {p.sketches
            .filter((s) => s.gives === "sketch" || field.kind === "path")
            .map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
        </select>
      );
    case "skip":
      return (
        <input
          className="input input-xs w-full"
          aria-label={field.label}
          placeholder={field.hint}
          defaultValue={((value as number[] | undefined) ?? []).join(", ")}
          onBlur={(e) =>
            set(
              e.target.value
                .split(/[\s,;]+/)
                .filter(Boolean)
                .map(Number)
                .filter(Number.isInteger),
            )
          }
        />
      );
    case "file":
      return <FileField {...props} />;
  }
  if (field.kind in picked)
    return (
      <PickField
        {...props}
        form={p.form}
        part={p.before}
        active={p.active === field.path}
        activate={(on) => p.activate(on ? field.path : null)}
        hover={p.hover}
      />
    );
  return null;
}

/** The form of a step: what it is made from and its sizes, with what comes of it said at once. */
export function StepForm(p: Props) {
  const { form, step, after } = p;
  const outcome = after?.steps.find((s) => s.id === step.id);
  const shown = form.fields.filter((f) => counts(f, step));
  const firstSize = shown.find((f) => f.kind === "length" || f.kind === "angle");
  return (
    <form
      className="flex min-h-0 flex-col"
      aria-label={step.name ? `${form.title} ${step.name}` : form.title}
      onSubmit={(e) => {
        e.preventDefault();
        p.keep();
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          if (p.active) p.activate(null);
          else p.cancel();
        }
      }}
    >
      <div className="border-b border-base-300 px-3 py-1.5">
        <h2 className="text-base!">
          {p.isNew ? "New: " : ""}
          {form.title}
        </h2>
        <p className="text-xs opacity-80">{form.what}</p>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-3 py-2">
        <dl className="grid grid-cols-[7rem_1fr] items-start gap-x-2 gap-y-1.5 text-sm">
          <dt className="pt-0.5">Name</dt>
          <dd>
            <input
              className="input input-xs w-full"
              aria-label="Name of the step"
              value={step.name ?? ""}
              placeholder="optional"
              maxLength={100}
              onChange={(e) => p.change({ ...step, name: e.target.value || undefined })}
            />
          </dd>
          {shown.map((f) => (
            <div key={f.path} className="contents">
              <dt className="pt-0.5" title={f.hint}>
                {f.label}
              </dt>
              <dd>
                <Control
                  field={f}
                  p={p}
                  first={p.isNew && f === firstSize && f.path === form.main}
                />
              </dd>
            </div>
          ))}
          <dt className="pt-0.5">Note</dt>
          <dd>
            <input
              className="input input-xs w-full"
              aria-label="Note of the step"
              value={step.note ?? ""}
              onChange={(e) => p.change({ ...step, note: e.target.value || undefined })}
            />
          </dd>
        </dl>
      </div>
      <div
        className="border-t border-base-300 px-3 py-2 text-sm"
        role="status"
        data-outcome={outcome ? (outcome.failed ? "failed" : "stands") : ""}
      >
        {p.error ? (
          <p>
            <b>{sentence(p.error.what)}</b> {p.error.remedy && sentence(p.error.remedy)}
          </p>
        ) : p.busy || !outcome ? (
          <p className="flex items-center gap-2">
            <span className="loading loading-ring loading-xs" />
            Rebuilding …
          </p>
        ) : outcome.failed ? (
          <p>
            <b>{sentence(outcome.message)}</b> {outcome.remedy && sentence(outcome.remedy)}
          </p>
        ) : outcome.message ? (
          <p>
            {sentence(outcome.message)} {outcome.remedy && sentence(outcome.remedy)}
          </p>
        ) : (
          <p>The step rebuilds.</p>
        )}
      </div>
      <div className="flex gap-2 px-3 pb-2">
        <button type="submit" className="btn btn-primary btn-sm flex-1">
          {p.isNew ? "Add the step" : "Keep the change"}
        </button>
        <button type="button" className="btn btn-sm" onClick={p.cancel}>
          Cancel
        </button>
      </div>
    </form>
  );
}
