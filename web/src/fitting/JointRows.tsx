import { useState } from "react";
import { cx } from "../app/cx";
import { Drive } from "./Drive";
import { Entry } from "./Entry";
import type { Command, Fitting, Frame, Motion } from "./useFitting";

type Row = Frame["joints"][number];

const marks: Record<string, string> = {
  held: "",
  lost: "has lost a feature",
  contradicting: "contradicts",
  flipped: "the other way round",
  off: "loosened",
};

/** The joints, each with its sizes to be changed. */
export function JointRows({
  frame,
  act,
  fitting,
  moves,
}: {
  frame: Frame;
  act: (c: Command) => void;
  fitting: Fitting;
  moves: (m: Motion) => void;
}) {
  const [open, setOpen] = useState<string | null>(null);
  if (frame.joints.length === 0)
    return <p className="px-2 py-1">None yet: pick a face or edge on each of two components.</p>;
  return (
    <ul>
      {frame.joints.map((j) => (
        <li key={j.joint.id} className="px-2 py-0.5">
          <button
            type="button"
            className={cx("w-full text-left", j.state !== "held" && "font-semibold")}
            aria-expanded={open === j.joint.id}
            title={j.words}
            onClick={() => setOpen(open === j.joint.id ? null : j.joint.id)}
          >
            {j.title}
            {marks[j.state] && <span className="text-error"> ↯ {marks[j.state]}</span>}
          </button>
          {open === j.joint.id && j.drive && (
            <Drive row={j} range={j.drive} fitting={fitting} moves={moves} />
          )}
          {open === j.joint.id && <Sizes key={frame.revision} row={j} act={act} />}
        </li>
      ))}
    </ul>
  );
}

/**
 * The range of a drive with another end. The other end is what it was, or else where the slider
 * ended; without one there is no range.
 */
function rangeWith(row: Row, side: "from" | "to", text: string) {
  const drive = row.drive;
  const joint = row.joint.id;
  if (!drive || !text) return { joint, from: "", to: "" };
  const unit = drive.unit === "°" ? "deg" : drive.unit;
  const from = drive.from ?? `${drive.least} ${unit}`;
  const to = drive.to ?? `${drive.most} ${unit}`;
  return { joint, from, to, [side]: text };
}

function Sizes({ row, act }: { row: Row; act: (c: Command) => void }) {
  const j = row.joint;
  const change = (part: Partial<Row["joint"]>) =>
    act({ do: "change-joint", id: j.id, join: { ...j, ...part } });
  const field = (
    label: string,
    key: "name" | "offset" | "angle" | "lead" | "distance" | "fit",
    hint = "",
  ) => (
    <label key={key} className="flex items-center gap-1">
      <span className="w-16">{label}</span>
      <input
        className="input input-xs flex-1"
        placeholder={hint}
        defaultValue={j[key] ?? ""}
        onBlur={(e) => {
          if (e.target.value !== (j[key] ?? "")) change({ [key]: e.target.value.trim() });
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
    </label>
  );
  const limit = (motion: "turn" | "slide", side: "least" | "most") => {
    const now = j.limits?.[motion];
    return (
      <input
        key={side}
        className="input input-xs min-w-0 flex-1"
        aria-label={`${side === "least" ? "Least" : "Most"} ${motion}`}
        placeholder={side === "least" ? "from" : "to"}
        defaultValue={now?.[side] ?? ""}
        onBlur={(e) => {
          const text = e.target.value.trim();
          if (text === (now?.[side] ?? "")) return;
          const set = { ...now, [side]: text || undefined };
          const limits = { ...j.limits, [motion]: set.least || set.most ? set : undefined };
          act({
            do: "change-joint",
            id: j.id,
            join: { ...j, limits: limits.turn || limits.slide ? limits : undefined },
          });
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
    );
  };
  const bound = row.bound as ("turn" | "slide")[];
  const sizes = row.sizes as ("offset" | "angle" | "lead" | "distance")[];
  return (
    <div className="flex flex-col gap-1 border-l-2 border-base-300 py-1 pl-2">
      <p className="text-xs">{row.words}</p>
      {field("Name", "name")}
      {sizes.map((s) => field(s.charAt(0).toUpperCase() + s.slice(1), s))}
      {row.round && field("Fit", "fit", "such as H7/p6")}
      {bound.map((motion) => (
        <div key={motion} className="flex items-center gap-1">
          <span className="w-16">{motion === "turn" ? "Turns" : "Slides"}</span>
          {limit(motion, "least")}
          {limit(motion, "most")}
        </div>
      ))}
      {row.drive && (
        <div className="flex items-center gap-1" title="Over which range it is driven and played">
          <span className="w-16">Driven</span>
          {(["from", "to"] as const).map((side) => (
            <Entry
              key={side}
              label={side === "from" ? "Driven from" : "Driven to"}
              value={row.drive?.[side] ?? ""}
              hint={side}
              take={(text) => act({ do: "drive-over", range: rangeWith(row, side, text) })}
            />
          ))}
        </div>
      )}
      <div className="flex gap-1">
        {row.turns && (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => act({ do: "flip", id: j.id })}
          >
            The other way round
          </button>
        )}
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => act({ do: "switch-joint", id: j.id, on: j.off === true })}
        >
          {j.off ? "Hold" : "Loosen"}
        </button>
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => act({ do: "remove-joint", id: j.id })}
        >
          Remove
        </button>
      </div>
    </div>
  );
}
