import { useRef, useState } from "react";
import { Problem, type Schemas, ask, client } from "../api/client";
import { Empty, Trouble, sentence } from "../controls/notices";
import type { Doc, Parameter, Part } from "./types";
import { FileInput } from "../controls/FileInput";

type ParameterRow = Schemas["ParameterRow"];

const tidy = (v: number) => String(Number(v.toPrecision(5)));

/**
 * Tries values of a driving parameter with a slider; the interval in which the model holds is
 * drawn on it.
 */
function Trial({
  id,
  doc,
  row,
  unit,
  value,
  attempt,
}: {
  id: number;
  doc: Doc;
  row: ParameterRow;
  unit: string;
  value: number | null;
  attempt: (v: number | null) => void;
}) {
  const [reach, setReach] = useState<Schemas["Reached"] | null>(null);
  const [error, setError] = useState<Problem | null>(null);
  const [stop, setStop] = useState<AbortController | null>(null);
  // The scale stays as it is while a value is tried: the hand is on it.
  const scaleNow = {
    base: row.number,
    lo: Math.min(row.number * 0.5, row.number * 2, reach?.least.at ?? Infinity),
    hi: Math.max(row.number * 0.5, row.number * 2, reach?.most.at ?? -Infinity),
  };
  const [scale, setScale] = useState(scaleNow);
  if (
    value === null &&
    (scale.base !== scaleNow.base || scale.lo !== scaleNow.lo || scale.hi !== scaleNow.hi)
  )
    setScale(scaleNow);
  const { base, lo, hi } = scale;
  const at = (v: number) => Math.min(100, Math.max(0, (100 * (v - lo)) / (hi - lo || 1)));
  const find = async () => {
    const c = new AbortController();
    setStop(c);
    setError(null);
    try {
      setReach(
        await ask(
          client.POST("/models/{id}/reach", {
            params: { path: { id } },
            body: { document: doc, name: row.name },
            signal: c.signal,
          }),
        ),
      );
    } catch (e) {
      if (!c.signal.aborted)
        setError(
          e instanceof Problem ? e : new Problem("the interval cannot be found", "try again", 0),
        );
    }
    setStop(null);
  };
  const end = (e: { at: number; found: boolean; why: string }, word: string) => (
    <p>
      {word} {tidy(e.at)} {unit}
      {e.found ? `, then ${e.why}` : ", as far as it was tried"}
    </p>
  );
  return (
    <div className="px-2 pb-2">
      <div className="relative h-6">
        <div className="absolute top-2.5 right-0 left-0 h-1.5 border border-base-300 bg-base-200" />
        {reach && (
          <div
            className="k-reach absolute top-2.5 h-1.5"
            style={{ left: `${at(reach.least.at)}%`, right: `${100 - at(reach.most.at)}%` }}
            data-reach={`${tidy(reach.least.at)} ${tidy(reach.most.at)}`}
          />
        )}
        <input
          type="range"
          className="k-slider absolute inset-0 w-full"
          aria-label={`Try ${row.name}`}
          min={lo}
          max={hi}
          step={(hi - lo) / 100 || 1}
          value={value ?? base}
          onChange={(e) => attempt(Number(e.target.value))}
        />
      </div>
      <div className="flex flex-wrap items-center gap-1 text-xs">
        {value !== null ? (
          <>
            <span className="mr-auto" role="status">
              {tidy(value)} {unit} is tried
            </span>
            <button type="button" className="btn btn-primary btn-xs" onClick={() => attempt(NaN)}>
              Keep it
            </button>
            <button type="button" className="btn btn-xs" onClick={() => attempt(null)}>
              Put back
            </button>
          </>
        ) : stop ? (
          <>
            <span className="mr-auto flex items-center gap-1" role="status">
              <span className="loading loading-ring loading-xs" />
              Finding how far it holds …
            </span>
            <button type="button" className="btn btn-xs" onClick={() => stop.abort()}>
              Cancel
            </button>
          </>
        ) : (
          !reach && (
            <button type="button" className="btn btn-xs" onClick={() => void find()}>
              How far does it hold?
            </button>
          )
        )}
      </div>
      {reach && (
        <div className="mt-1 text-xs">
          {end(reach.least, "Down to")}
          {end(reach.most, "Up to")}
        </div>
      )}
      {error && <Trouble error={error} />}
    </div>
  );
}

interface Props {
  id: number;
  doc: Doc;
  part: Part | undefined;
  error: Problem | null;
  change: (d: Doc, what: string) => void;
  trying: { name: string; value: number } | null;
  attempt: (name: string, value: number | null) => void;
}

const unitOf = (row: ParameterRow | undefined, unit: string) =>
  row?.dim === "length" ? unit : row?.dim === "angle" ? "deg" : "";

/** The table of parameters: formulas, notes, ranges, values to try, and the table as a file. */
export function Parameters(p: Props) {
  const { id, doc, part, change } = p;
  const [open, setOpen] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const [said, setSaid] = useState("");
  const [named, setNamed] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const put = (i: number, next: Partial<Parameter>) => {
    const old = doc.parameters[i];
    if (!old) return;
    const q = { ...old, ...next };
    for (const k of ["note", "least", "most"] as const) if (!q[k]) delete q[k];
    if (JSON.stringify(q) !== JSON.stringify(old))
      change(
        { ...doc, parameters: doc.parameters.map((x, k) => (k === i ? q : x)) },
        `parameter ${old.name}`,
      );
  };
  const command = async (body: Schemas["ModelCommand"], what: string) => {
    setTrouble(null);
    try {
      const out = await ask(
        client.POST("/models/{id}/edit", {
          params: { path: { id } },
          body: { document: doc, command: body },
        }),
      );
      change(out.document as unknown as Doc, what);
      setSaid(out.said);
    } catch (e) {
      setTrouble(e instanceof Problem ? e : new Problem("that could not be done", "try again", 0));
    }
  };
  const fresh = () => {
    const name = unused(doc);
    change(
      { ...doc, parameters: [...doc.parameters, { name, value: `10 ${doc.unit}` }] },
      `parameter ${name} added`,
    );
    setOpen(name);
    setNamed(name); // a name is given at once
  };
  return (
    <div className="text-sm">
      {doc.parameters.length === 0 && (
        <Empty>
          No parameter yet. Enter the sizes that drive the rest first, with a name each; formulas
          can then use them.
        </Empty>
      )}
      <ul aria-label="Parameters">
        {doc.parameters.map((q, i) => {
          const row = part?.parameters.find((r) => r.name === q.name);
          const trying = p.trying?.name === q.name ? p.trying.value : null;
          const users = row?.users ?? [];
          return (
            <li key={`${i}/${q.name}`} className="border-b border-base-300" data-parameter={q.name}>
              <div className="flex items-center gap-1 px-2 py-1">
                <input
                  className="input input-xs w-24 font-semibold"
                  aria-label={`Name of ${q.name}`}
                  defaultValue={q.name}
                  ref={(e) => {
                    if (e && named === q.name) {
                      setNamed("");
                      e.focus();
                      e.select();
                    }
                  }}
                  onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
                  onBlur={(e) => {
                    const name = e.target.value.trim();
                    if (name !== q.name) {
                      void command(
                        { do: "rename", id: q.name, name },
                        `${q.name} renamed to ${name}`,
                      );
                      e.target.value = q.name;
                    }
                  }}
                />
                <input
                  key={q.value}
                  className="input input-xs flex-1"
                  aria-label={`Formula of ${q.name}`}
                  defaultValue={q.value}
                  spellCheck={false}
                  onFocus={(e) => e.target.select()}
                  onBlur={(e) => put(i, { value: e.target.value.trim() })}
                  onKeyDown={(e) =>
                    e.key === "Enter" && put(i, { value: e.currentTarget.value.trim() })
                  }
                />
                <span className="w-20 truncate text-right tabular-nums" title={row?.text}>
                  {row?.text}
                </span>
                <button
                  type="button"
                  className="btn btn-ghost btn-xs px-1"
                  aria-label={`More for ${q.name}`}
                  aria-expanded={open === q.name}
                  onClick={() => setOpen(open === q.name ? null : q.name)}
                >
                  ⋮
                </button>
              </div>
              {open === q.name && (
                <div className="pb-1">
                  <div className="grid grid-cols-[1fr_4.5rem_4.5rem] gap-1 px-2 pb-1">
                    <input
                      className="input input-xs"
                      aria-label={`Note of ${q.name}`}
                      placeholder="what it is"
                      defaultValue={q.note ?? ""}
                      onBlur={(e) => put(i, { note: e.target.value })}
                    />
                    <input
                      className="input input-xs"
                      aria-label={`Least of ${q.name}`}
                      placeholder="least"
                      defaultValue={q.least ?? ""}
                      onBlur={(e) => put(i, { least: e.target.value.trim() })}
                    />
                    <input
                      className="input input-xs"
                      aria-label={`Most of ${q.name}`}
                      placeholder="most"
                      defaultValue={q.most ?? ""}
                      onBlur={(e) => put(i, { most: e.target.value.trim() })}
                    />
                  </div>
                  {row?.driving && row.number !== 0 && (
                    <Trial
                      id={id}
                      doc={doc}
                      row={row}
                      unit={unitOf(row, doc.unit)}
                      value={trying}
                      attempt={(v) => p.attempt(q.name, v !== null && Number.isNaN(v) ? NaN : v)}
                    />
                  )}
                  <div className="flex items-center gap-1 px-2 text-xs">
                    <span className="mr-auto">
                      {users.length > 0 ? `used by ${users.join(", ")}` : "nothing uses it"}
                    </span>
                    <button
                      type="button"
                      className="btn btn-xs"
                      disabled={users.length > 0}
                      title={users.length > 0 ? "It is in use" : undefined}
                      onClick={() =>
                        change(
                          { ...doc, parameters: doc.parameters.filter((_, k) => k !== i) },
                          `parameter ${q.name} removed`,
                        )
                      }
                    >
                      Remove
                    </button>
                  </div>
                </div>
              )}
            </li>
          );
        })}
      </ul>
      <div className="flex flex-wrap gap-1 px-2 py-2">
        <button type="button" className="btn btn-xs" onClick={fresh}>
          New parameter
        </button>
        <FileInput
          ref={file}
          accept=".csv"
          label="Table of parameters"
          take={(f) =>
            void f
              .text()
              .then((text) =>
                command({ do: "import-parameters", text }, `parameters from ${f.name}`),
              )
          }
        />
        <button type="button" className="btn btn-xs" onClick={() => file.current?.click()}>
          Import CSV
        </button>
        <a className="btn btn-xs" href={`/api/models/${id}/export?format=csv`} download>
          Export CSV
        </a>
      </div>
      {said && !trouble && (
        <p className="px-3 pb-2 text-xs" role="status">
          {sentence(said)}
        </p>
      )}
      {(trouble ?? p.error) && <Trouble error={trouble ?? p.error} />}
    </div>
  );
}

/** A name that no parameter has yet. */
function unused(doc: Doc): string {
  let n = doc.parameters.length + 1;
  while (doc.parameters.some((q) => q.name === `size${n}`)) n++;
  return `size${n}`;
}
