import { useState } from "react";
import type { Schemas } from "../api/client";
import { Points } from "../review/Points";
import { ToleranceFields } from "./ToleranceFields";

type Requirement = Schemas["Requirement"];
type Can = Schemas["Whole"]["can"];
type Kind = Schemas["WholeKind"];

/** What a component is called by the name of one of its features. */
function titleOf(can: Can, feature: string) {
  for (const c of can.components) {
    const f = c.features.find((x) => x.id === feature);
    if (f) return `${c.title}, ${f.title}`;
  }
  return feature.split("#")[0];
}

/** What a characteristic is about, in words. */
function aboutWords(of: Requirement, can: Can) {
  const of2 = (list: Schemas["Choice"][], id?: string) => list.find((x) => x.id === id)?.title;
  return [
    ...(of.of ?? []).map((f) => titleOf(can, f)),
    of2(can.parts, of.item),
    of2(can.joints, of.joint),
    of2(can.joints, of.to),
    of2(can.traces, of.trace),
  ]
    .filter(Boolean)
    .join("; ");
}

/** One characteristic of the whole, to be changed. */
export function RequirementFields({
  of,
  can,
  change,
  remove,
}: {
  of: Requirement;
  can: Can;
  change: (by: Requirement) => void;
  remove: () => void;
}) {
  const kind = can.kinds.find((k) => k.name === of.kind);
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2">
      <span className="w-6 text-right font-semibold">{of.balloon}</span>
      <input
        className="input input-xs min-w-48 flex-1"
        aria-label={`Label of balloon ${of.balloon}`}
        value={of.label}
        onChange={(e) => change({ ...of, label: e.target.value })}
      />
      <Points
        label={`Weight of balloon ${of.balloon}`}
        most={1000}
        value={of.free ? 0 : (of.weight ?? 1)}
        set={(v) =>
          change({ ...of, weight: v > 0 && v !== 1 ? v : undefined, free: v === 0 || undefined })
        }
      />
      <button type="button" className="btn btn-xs" onClick={remove}>
        Remove
      </button>
      <span className="basis-full pl-9 text-xs opacity-80">
        {kind?.title ?? of.kind}
        {aboutWords(of, can) && `: ${aboutWords(of, can)}`}
        {can.stated[of.id] && `. As stated: ${can.stated[of.id]}`}
      </span>
      {kind && !kind.counts && (
        <span className="flex basis-full items-center gap-2 pl-9">
          Tolerance
          <ToleranceFields
            tolerance={of.tolerance}
            change={(tolerance) => change({ ...of, tolerance })}
          />
        </span>
      )}
    </li>
  );
}

function Choices({
  label,
  list,
  value,
  set,
}: {
  label: string;
  list: Schemas["Choice"][];
  value: string;
  set: (id: string) => void;
}) {
  return (
    <select
      className="select select-xs w-56"
      aria-label={label}
      value={value}
      onChange={(e) => set(e.target.value)}
    >
      <option value="">{label} …</option>
      {list.map((x) => (
        <option key={x.id} value={x.id}>
          {x.title}
        </option>
      ))}
    </select>
  );
}

const nothing = { of: ["", ""], parts: ["", ""], item: "", joint: "", to: "", trace: "" };

/** The characteristic that is chosen, where all that it goes by is. */
function madeOf(kind: Kind, c: typeof nothing, list: Requirement[]): Requirement | null {
  const [a = "", b = ""] = c.of;
  const complete =
    (!kind.features || (a && b)) &&
    (!kind.item || c.item) &&
    (!kind.joint || c.joint) &&
    (!kind.to || c.to) &&
    (!kind.trace || c.trace);
  if (!complete) return null;
  const balloon = 1 + Math.max(0, ...list.map((x) => x.balloon));
  const taken = new Set(list.map((x) => x.id));
  const base = kind.name.replaceAll(" ", "_");
  let n = 1;
  while (taken.has(`${base}_${n}`)) n++;
  return {
    id: `${base}_${n}`,
    balloon,
    kind: kind.name,
    label: kind.title.charAt(0).toUpperCase() + kind.title.slice(1),
    ...(kind.features && { of: [a, b] }),
    ...(kind.item && { item: c.item }),
    ...(kind.joint && { joint: c.joint }),
    ...(kind.to && { to: c.to }),
    ...(kind.trace && { trace: c.trace }),
  };
}

/** Adds a characteristic of the whole. */
export function Add({
  can,
  list,
  add,
}: {
  can: Can;
  list: Requirement[];
  add: (c: Requirement) => void;
}) {
  const [name, setName] = useState("");
  const [c, setC] = useState(nothing);
  const kind = can.kinds.find((k) => k.name === name);
  const made = kind ? madeOf(kind, c, list) : null;
  return (
    <div
      className="flex flex-wrap items-center gap-2 border-t border-base-300 px-4 py-2 text-sm"
      role="group"
      aria-label="Add a characteristic"
    >
      <Choices
        label="Kind"
        list={can.kinds.map((k) => ({ id: k.name, title: k.title }))}
        value={name}
        set={(id) => {
          setName(id);
          setC(nothing);
        }}
      />
      {kind?.features &&
        [0, 1].map((i) => (
          <span key={i} className="flex gap-1">
            <Choices
              label={i === 0 ? "First component" : "Second component"}
              list={can.components}
              value={c.parts[i] ?? ""}
              set={(id) => setC({ ...c, parts: c.parts.with(i, id), of: c.of.with(i, "") })}
            />
            <Choices
              label="Face"
              list={can.components.find((x) => x.id === c.parts[i])?.features ?? []}
              value={c.of[i] ?? ""}
              set={(id) => setC({ ...c, of: c.of.with(i, id) })}
            />
          </span>
        ))}
      {kind?.item && (
        <Choices
          label="Item"
          list={can.parts}
          value={c.item}
          set={(item) => setC({ ...c, item })}
        />
      )}
      {kind?.joint && (
        <Choices
          label="Joint"
          list={can.joints}
          value={c.joint}
          set={(joint) => setC({ ...c, joint })}
        />
      )}
      {kind?.to && (
        <Choices
          label="To the joint"
          list={can.joints}
          value={c.to}
          set={(to) => setC({ ...c, to })}
        />
      )}
      {kind?.trace && (
        <Choices
          label="Traced point"
          list={can.traces}
          value={c.trace}
          set={(trace) => setC({ ...c, trace })}
        />
      )}
      <button
        type="button"
        className="btn btn-xs"
        disabled={!made}
        onClick={() => {
          if (made) add(made);
          setName("");
          setC(nothing);
        }}
      >
        Add
      </button>
    </div>
  );
}
