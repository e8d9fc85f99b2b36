import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import {
  type Candidate,
  type Form,
  type FormField,
  candidates,
  chip,
  namesIn,
  picked,
  same,
  valuesOf,
} from "./types";
import type { Part, Step } from "./types";
import { cx } from "../app/cx";

interface FieldProps {
  field: FormField;
  step: Step;
  value: unknown;
  set: (v: unknown) => void;
}

/** A size: it goes into the step as it is typed, and is worked out on the server. */
export function FormulaField({ field, value, set, first }: FieldProps & { first?: boolean }) {
  const [text, setText] = useState(String(value ?? ""));
  const [was, setWas] = useState(value);
  if (was !== value) {
    setWas(value);
    if (text !== String(value ?? "")) setText(String(value ?? ""));
  }
  const timer = useRef(0);
  const put = (t: string) => {
    window.clearTimeout(timer.current);
    setWas(t);
    set(t);
  };
  useEffect(() => () => window.clearTimeout(timer.current), []);
  const key = (e: KeyboardEvent) => {
    if (e.key === "Enter") put(text);
  };
  return (
    <input
      className="input input-xs w-full font-semibold"
      value={text}
      autoFocus={first}
      onFocus={(e) => e.target.select()}
      placeholder={field.optional && (field.hint?.length ?? 99) <= 26 ? field.hint : ""}
      title={field.hint}
      aria-label={field.label}
      spellCheck={false}
      onChange={(e) => {
        const t = e.target.value;
        setText(t);
        window.clearTimeout(timer.current);
        timer.current = window.setTimeout(() => put(t), 250);
      }}
      onBlur={() => text !== String(value ?? "") && put(text)}
      onKeyDown={key}
    />
  );
}

interface PickProps extends FieldProps {
  form: Form;
  part: Part | undefined;
  active: boolean;
  activate: (on: boolean) => void;
  hover: (key: string | null) => void;
}

/** Something that is picked in the view, or from a list. */
export function PickField({
  form,
  field,
  step,
  value,
  set,
  part,
  active,
  activate,
  hover,
}: PickProps) {
  const list = candidates(field.kind, part, step);
  const values = valuesOf(field.kind, value);
  const many = picked[field.kind]?.many ?? false;
  const put = (next: unknown[]) => set(many ? next : next[0]);
  const add = (c: Candidate) => {
    const most = picked[field.kind]?.most ?? Infinity;
    put(many ? [...values.filter((v) => !same(v, c.value)), c.value].slice(-most) : [c.value]);
  };
  const own = field.own ? form.fields.find((x) => x.path === field.own) : undefined;
  const offset =
    field.kind === "plane" &&
    values.length > 0 &&
    field.path === "plane" &&
    !form.fields.some((x) => x.path === "plane.offset")
      ? ((values[0] as { offset?: string }).offset ?? "")
      : null;
  return (
    <div
      className={cx(
        "border px-1.5 py-1",
        active ? "border-primary outline-2 outline-primary/40" : "border-base-300",
      )}
      data-field={field.path}
      data-active={active}
    >
      <div className="flex flex-wrap items-center gap-1">
        {values.map((v, i) => {
          const c = list.find((x) => same(x.value, v));
          return (
            <span
              key={i}
              className={cx(
                "badge badge-sm h-auto max-w-full gap-1 border-base-300",
                "bg-base-200 py-0.5 text-left",
              )}
              onPointerEnter={() => hover(c?.key ?? null)}
              onPointerLeave={() => hover(null)}
            >
              <span className="wrap-anywhere" title={namesIn(v)}>
                {chip(v, list)}
              </span>
              <button
                type="button"
                aria-label={`Take out ${chip(v, list)}`}
                onClick={() => put(values.filter((_, k) => k !== i))}
              >
                ×
              </button>
            </span>
          );
        })}
        {field.kind === "regions" && values.length === 0 && (
          <span className="badge badge-sm border-base-300 bg-base-200">all material</span>
        )}
        <button
          type="button"
          className="btn btn-xs"
          aria-pressed={active}
          onClick={() => activate(!active)}
        >
          {active ? "Done picking" : values.length > 0 && !many ? "Pick another" : "Pick"}
        </button>
      </div>
      {active && (
        <select
          className="select select-xs mt-1 w-full"
          aria-label={`${field.label}, from a list`}
          value=""
          onChange={(e) => {
            const c = list[Number(e.target.value)];
            if (c) add(c);
          }}
        >
          <option value="" disabled>
            {list.length > 0 ? "pick it, or choose" : "there is nothing here to pick"}
          </option>
          {list.map((c, i) => (
            <option key={c.key} value={i}>
              {c.label}
            </option>
          ))}
        </select>
      )}
      {offset !== null && (
        <label className="mt-1 flex items-center gap-1 text-xs">
          moved by
          <input
            className="input input-xs w-24"
            value={offset}
            placeholder="0"
            aria-label="Offset of the plane"
            onChange={(e) =>
              put([
                {
                  ...(values[0] as object),
                  ...(e.target.value ? { offset: e.target.value } : { offset: undefined }),
                },
              ])
            }
          />
        </label>
      )}
      {own && values.length > 1 && (
        <details className="mt-1 text-xs">
          <summary className="cursor-pointer">{own.label} for each</summary>
          {values.map((v, i) => (
            <label key={i} className="mt-1 flex items-center gap-1">
              <span className="mr-auto truncate">{chip(v, list)}</span>
              <input
                className="input input-xs w-20"
                value={String((v as Record<string, unknown>)[own.path] ?? "")}
                placeholder={String(step[own.path] ?? "")}
                aria-label={`${own.label} of ${chip(v, list)}`}
                onChange={(e) =>
                  put(
                    values.map((x, k) =>
                      k === i ? { ...(x as object), [own.path]: e.target.value || undefined } : x,
                    ),
                  )
                }
              />
            </label>
          ))}
        </details>
      )}
    </div>
  );
}

/** A STEP file, kept in the step as text. */
export function FileField({ field, value, set }: FieldProps) {
  const [trouble, setTrouble] = useState("");
  const read = async (f: File) => {
    setTrouble("");
    const text = await f.text();
    if (!text.startsWith("ISO-10303-21")) setTrouble(`${f.name} is not a STEP file.`);
    else if (text.length > 6e6)
      setTrouble(`${f.name} has ${Math.round(text.length / 1e6)} MB; up to 6 MB go into a model.`);
    else set(text);
  };
  return (
    <div className="text-xs">
      <input
        type="file"
        accept=".step,.stp"
        className="file-input file-input-xs w-full"
        aria-label={field.label}
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void read(f);
        }}
      />
      {typeof value === "string" && (
        <p className="mt-1">A file of {Math.ceil(value.length / 1000)} kB is in the model.</p>
      )}
      {trouble && (
        <p role="alert" className="mt-1 font-semibold">
          {trouble}
        </p>
      )}
    </div>
  );
}
