import { type FormEvent, type KeyboardEvent, useMemo, useState } from "react";
import { Empty, sentence } from "../controls/notices";
import { Newest } from "./core/engine";
import type { Frame, ParamView } from "./core/types";
import { inWords, tidy, useReach } from "./useReach";
import type { Sketching } from "./useSketch";
import { useChanged } from "../app/useChanged";

/** Tries a value: the sketch follows the slider, on which the interval is drawn where it holds. */
function Trial({ sk, p, unit }: { sk: Sketching; p: ParamView; unit: string }) {
  const { reach, error } = useReach(sk, p.name);
  const tries = useMemo(() => new Newest(), []);
  const [base, setBase] = useState(p.value);
  const [value, setValue] = useState(p.value);
  const trying = sk.frame?.trying === p.name;
  if (!trying && base !== p.value) {
    setBase(p.value);
    setValue(p.value);
  }
  const lo = base * 0.2;
  const hi = base * 2.4;
  const at = (v: number) => Math.min(100, Math.max(0, (100 * (v - lo)) / (hi - lo)));
  const { engine, pixel } = sk;
  const attempt = (v: number) => {
    setValue(v);
    if (engine)
      tries.run(
        async () =>
          void (await sk.show(engine.call<Frame>("try", { name: p.name, value: v, pixel }), false)),
      );
  };
  const end = (keep: boolean) => {
    tries.drop();
    if (engine) void sk.show(engine.call<Frame>("end-try", { keep, pixel }), keep);
    if (!keep) setValue(base);
  };
  return (
    <div className="mt-1">
      <div className="relative h-6">
        <div className="absolute top-2.5 right-0 left-0 h-1.5 border border-base-300 bg-base-200" />
        {reach && (
          <div
            className="k-reach absolute top-2.5 h-1.5"
            style={{ left: `${at(reach.low.value)}%`, right: `${100 - at(reach.high.value)}%` }}
            data-reach={`${tidy(reach.low.value)} ${tidy(reach.high.value)}`}
          />
        )}
        <input
          type="range"
          className="k-slider absolute inset-0 w-full"
          aria-label={`Try ${p.name}`}
          min={lo}
          max={hi}
          step={(hi - lo) / 200}
          value={value}
          onChange={(e) => attempt(Number(e.target.value))}
        />
      </div>
      {trying ? (
        <div className="flex items-center gap-1 text-xs">
          <span className="mr-auto" role="status">
            {tidy(value)} {unit} is tried
          </span>
          <button type="button" className="btn btn-primary btn-xs" onClick={() => end(true)}>
            Keep it
          </button>
          <button type="button" className="btn btn-xs" onClick={() => end(false)}>
            Put back
          </button>
        </div>
      ) : error !== null ? (
        <p className="text-xs">
          {error instanceof Error ? sentence(error.message) : "The interval cannot be found."}
        </p>
      ) : reach === null ? (
        <p className="text-xs" role="status">
          Finding how far it holds …
        </p>
      ) : (
        <p className="text-xs">{inWords(reach, unit)}</p>
      )}
    </div>
  );
}

function Row({
  sk,
  p,
  unit,
  open,
  toggle,
}: {
  sk: Sketching;
  p: ParamView;
  unit: string;
  open: boolean;
  toggle: () => void;
}) {
  const [name, setName] = useState(p.name);
  const [formula, setFormula] = useState(p.formula);
  const [trouble, setTrouble] = useState(false);
  if (useChanged(p.formula, p.name)) {
    setName(p.name);
    setFormula(p.formula);
    setTrouble(false);
  }
  const save = async () => {
    if (name === p.name && formula === p.formula) return setTrouble(false);
    setTrouble(
      !(await sk.act({ do: "parameter", id: p.name, name: name.trim(), value: formula.trim() })),
    );
  };
  const key = (e: KeyboardEvent) => {
    if (e.key === "Enter") void save();
    if (e.key === "Escape") {
      setName(p.name);
      setFormula(p.formula);
      setTrouble(false);
    }
  };
  return (
    <li className="px-3 py-2" data-parameter={p.name}>
      <div className="flex items-center gap-1">
        <input
          className="input input-xs w-20 font-semibold"
          aria-label={`Name of ${p.name}`}
          value={name}
          onChange={(e) => setName(e.target.value)}
          onBlur={() => void save()}
          onKeyDown={key}
          spellCheck={false}
        />
        <span>=</span>
        <input
          className={`input input-xs min-w-0 flex-1 ${trouble ? "input-error" : ""}`}
          aria-label={`Formula of ${p.name}`}
          aria-invalid={trouble}
          value={formula}
          onChange={(e) => setFormula(e.target.value)}
          onBlur={() => void save()}
          onKeyDown={key}
          spellCheck={false}
        />
      </div>
      <div className="mt-0.5 flex items-center gap-2 text-xs">
        <span className="mr-auto">{p.text}</span>
        {p.driving && p.value > 0 && (
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-expanded={open}
            onClick={toggle}
          >
            {open ? "Close" : "Try values"}
          </button>
        )}
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          aria-label={`Remove ${p.name}`}
          onClick={() => void sk.act({ do: "remove-parameter", name: p.name })}
        >
          Remove
        </button>
      </div>
      {trouble && sk.word && (
        <p role="alert" className="border-l-4 border-error pl-2 text-xs">
          {sentence(sk.word.text)}
        </p>
      )}
      {open && (
        <Trial sk={sk} p={p} unit={/deg$/.test(p.text) ? "°" : /[a-z]$/.test(p.text) ? unit : ""} />
      )}
    </li>
  );
}

/** Named sizes with their formulas, and trying other values. */
export function Parameters({ sk, unit }: { sk: Sketching; unit: string }) {
  const [open, setOpen] = useState<string | null>(null);
  const [name, setName] = useState("");
  const [formula, setFormula] = useState("");
  const [refused, setRefused] = useState(false);
  const list = sk.frame?.parameters ?? [];
  const add = async (e: FormEvent) => {
    e.preventDefault();
    if (await sk.act({ do: "parameter", name: name.trim(), value: formula.trim() })) {
      setName("");
      setFormula("");
      setRefused(false);
    } else setRefused(true);
  };
  return (
    <>
      {list.length === 0 && (
        <Empty>
          No parameter yet. A size that others depend on gets a name here; a formula may use it:
          reach/2 - 3 mm.
        </Empty>
      )}
      <ul className="divide-y divide-base-300 text-sm">
        {list.map((p, i) => (
          <Row
            key={i}
            sk={sk}
            p={p}
            unit={unit}
            open={open === p.name}
            toggle={() => setOpen(open === p.name ? null : p.name)}
          />
        ))}
      </ul>
      <form className="border-t border-base-300 px-3 py-2 text-sm" onSubmit={(e) => void add(e)}>
        <div className="flex items-center gap-1">
          <input
            className="input input-xs w-20"
            aria-label="Name of a new parameter"
            placeholder="name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            required
            spellCheck={false}
          />
          <span>=</span>
          <input
            className="input input-xs min-w-0 flex-1"
            aria-label="Formula of a new parameter"
            placeholder={`12 ${unit}`}
            value={formula}
            onChange={(e) => setFormula(e.target.value)}
            required
            spellCheck={false}
          />
          <button type="submit" className="btn btn-xs">
            Add
          </button>
        </div>
        {refused && sk.word && (
          <p role="alert" className="mt-1 border-l-4 border-error pl-2 text-xs">
            {sentence(sk.word.text)}
          </p>
        )}
      </form>
    </>
  );
}
