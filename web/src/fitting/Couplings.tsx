import { useState } from "react";
import { Panel } from "../controls/notices";
import type { Command, Frame } from "./useFitting";

const kinds = [
  { kind: "gear pair", second: "turn", ratio: "Teeth, first / second", like: "18/54" },
  { kind: "rack and pinion", second: "slide", ratio: "Rack per turn", like: "94.2 mm" },
  { kind: "belt", second: "turn", ratio: "Wheels, first / second", like: "40/120" },
] as const;

/** Joints that move together: by gears, a rack or a belt. */
export function Couplings({ frame, act }: { frame: Frame; act: (c: Command) => void }) {
  const [adding, setAdding] = useState(false);
  const turning = frame.joints.filter((j) => j.bound.includes("turn"));
  if (frame.couplings.length === 0 && turning.length < 1) return null;
  return (
    <Panel
      title="Couplings"
      side={
        <button type="button" className="btn btn-xs" onClick={() => setAdding(!adding)}>
          {adding ? "Leave it" : "Couple joints …"}
        </button>
      }
    >
      <ul>
        {frame.couplings.map((c) => (
          <li key={c.coupling.id} className="flex items-center gap-1 px-2 py-0.5">
            <span className="min-w-0 flex-1 truncate" title={c.words}>
              {c.title}
              {c.lost && <span className="text-error"> ↯ does not hold</span>}
            </span>
            <input
              key={c.coupling.ratio}
              className="input input-xs w-24"
              aria-label={`Ratio of ${c.title}`}
              defaultValue={c.coupling.ratio}
              onBlur={(e) => {
                const ratio = e.target.value.trim();
                if (ratio && ratio !== c.coupling.ratio)
                  act({
                    do: "change-coupling",
                    id: c.coupling.id,
                    couple: { ...c.coupling, ratio },
                  });
                else e.target.value = c.coupling.ratio;
              }}
              onKeyDown={(e) => {
                if (e.key === "Enter") e.currentTarget.blur();
              }}
            />
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              onClick={() => act({ do: "remove-coupling", id: c.coupling.id })}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      {frame.couplings.length === 0 && !adding && (
        <p className="px-2 py-1">None: gears, a rack or a belt make two joints move together.</p>
      )}
      {adding && <NewCoupling frame={frame} act={act} done={() => setAdding(false)} />}
    </Panel>
  );
}

function NewCoupling({
  frame,
  act,
  done,
}: {
  frame: Frame;
  act: (c: Command) => void;
  done: () => void;
}) {
  const [at, setAt] = useState(0);
  const [a, setA] = useState("");
  const [b, setB] = useState("");
  const [ratio, setRatio] = useState("");
  const [sense, setSense] = useState("-");
  const kind = kinds[at] ?? kinds[0];
  const choice = (motion: string, but: string) =>
    frame.joints.filter((j) => j.bound.includes(motion) && j.joint.id !== but);
  const pick = (label: string, value: string, set: (v: string) => void, rows: Frame["joints"]) => (
    <label className="flex items-center gap-1">
      <span className="w-24">{label}</span>
      <select
        className="select select-xs flex-1"
        value={value}
        onChange={(e) => set(e.target.value)}
      >
        <option value="">choose a joint</option>
        {rows.map((j) => (
          <option key={j.joint.id} value={j.joint.id}>
            {j.title}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <form
      className="flex flex-col gap-1 border-t border-base-300 px-2 py-1"
      onSubmit={(e) => {
        e.preventDefault();
        const signed = sense === "-" ? `-(${ratio})` : ratio;
        act({ do: "couple", couple: { id: "new", kind: kind.kind, a, b, ratio: signed } });
        done();
      }}
    >
      <label className="flex items-center gap-1">
        <span className="w-24">Kind</span>
        <select
          className="select select-xs flex-1"
          value={at}
          onChange={(e) => {
            setAt(Number(e.target.value));
            setB("");
          }}
        >
          {kinds.map((k, i) => (
            <option key={k.kind} value={i}>
              {k.kind}
            </option>
          ))}
        </select>
      </label>
      {pick("First, it turns", a, setA, choice("turn", b))}
      {pick(`Second, it ${kind.second}s`, b, setB, choice(kind.second, a))}
      <label className="flex items-center gap-1">
        <span className="w-24">{kind.ratio}</span>
        <input
          className="input input-xs flex-1"
          value={ratio}
          placeholder={kind.like}
          onChange={(e) => setRatio(e.target.value)}
        />
      </label>
      <label className="flex items-center gap-1">
        <span className="w-24">Sense</span>
        <select
          className="select select-xs flex-1"
          value={sense}
          onChange={(e) => setSense(e.target.value)}
        >
          <option value="-">against one another</option>
          <option value="">the same</option>
        </select>
      </label>
      <button
        type="submit"
        className="btn btn-primary btn-xs self-start"
        disabled={!a || !b || !ratio.trim()}
      >
        Couple them
      </button>
    </form>
  );
}
