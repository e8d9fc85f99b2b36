import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { Panel, sentence } from "../controls/notices";
import { ComponentList } from "./ComponentList";
import { Couplings } from "./Couplings";
import { FromContacts } from "./FromContacts";
import { JointRows } from "./JointRows";
import { LookOver } from "./LookOver";
import { Note } from "./Note";
import { PartOf } from "./PartOf";
import { Sizes } from "./Sizes";
import { Traces } from "./Traces";
import type { Command, Finding, Fitting, Frame, Motion } from "./useFitting";

/** The components, the joints, what collides, and the parts list. */
export function FittingPanel({
  frame,
  chosen,
  choose,
  hidden,
  setHidden,
  faint,
  setFaint,
  act,
  replace,
  fitting,
  collisions,
  found,
  newer,
  edit,
  contacts,
  versions,
  vary,
  motion,
  moves,
}: {
  frame: Frame;
  chosen: string | null;
  choose: (id: string | null) => void;
  hidden: ReadonlySet<string>;
  setHidden: (h: ReadonlySet<string>) => void;
  faint: ReadonlySet<string>;
  setFaint: (f: ReadonlySet<string>) => void;
  act: (c: Command) => void;
  replace: (id: string) => void;
  fitting: Fitting;
  collisions: Schemas["Collisions"] | null;
  found: Finding[] | null;
  newer: ReactNode;
  /** Opens a component in its place. */
  edit: (id: string) => ReactNode;
  /** How often joints were asked to be read from the contacts elsewhere. */
  contacts: number;
  versions: ReactNode;
  /** How it bears other sizes. */
  vary: ReactNode;
  motion: Motion | null;
  moves: (m: Motion) => void;
}) {
  const turned = (set: ReadonlySet<string>, id: string) => {
    const next = new Set(set);
    if (!next.delete(id)) next.add(id);
    return next;
  };
  const c0 = frame.components.find((c) => c.id === chosen);
  const others = (id: string) =>
    new Set(frame.components.map((c) => c.id).filter((other) => other !== id));
  return (
    <aside className="flex w-80 flex-col gap-2 overflow-auto border-l border-base-300 p-2 text-sm">
      {newer}
      {found && <LookOver found={found} choose={choose} act={act} />}
      {collisions && (
        <Panel title="Collisions">
          {collisions.pairs.every((p) => p.kind !== "collision" && p.kind !== "ask") && (
            <p className="px-2 py-1">Nothing collides where it stands.</p>
          )}
          <ul>
            {collisions.pairs.map((p) => (
              <li key={p.a + p.b} className="px-2 py-0.5">
                <span className="font-semibold">{p.kind}</span>:{" "}
                {sentence(p.remedy ? `${p.what}; ${p.remedy}` : p.what)}
              </li>
            ))}
          </ul>
        </Panel>
      )}
      <Panel
        title="Components"
        side={
          hidden.size > 0 && (
            <button type="button" className="btn btn-xs" onClick={() => setHidden(new Set())}>
              Show all
            </button>
          )
        }
      >
        <ComponentList
          frame={frame}
          chosen={chosen}
          choose={choose}
          hidden={hidden}
          hide={setHidden}
          act={act}
        />
        {chosen && c0 && (
          <Chosen key={chosen} frame={frame} id={chosen} act={act} wiggle={fitting.wiggle}>
            <button type="button" className="btn btn-xs" onClick={() => replace(chosen)}>
              Replace …
            </button>
            <button type="button" className="btn btn-xs" onClick={() => setHidden(others(chosen))}>
              Show it alone
            </button>
            <button
              type="button"
              className="btn btn-xs"
              aria-pressed={faint.has(chosen)}
              onClick={() => setFaint(turned(faint, chosen))}
            >
              {faint.has(chosen) ? "Show it solid" : "See through it"}
            </button>
            {c0?.nested && (
              <button
                type="button"
                className="btn btn-xs"
                title={c0.moving ? "It is one body again" : "Its own joints let it move"}
                onClick={() => act({ do: "moving", id: chosen, on: !c0.moving })}
              >
                {c0.moving ? "Hold its assembly rigid" : "Let its assembly move"}
              </button>
            )}
            {c0?.nested && (
              <button
                type="button"
                className="btn btn-xs"
                title="What it is made of is put in its place"
                onClick={() => act({ do: "lay-flat", id: chosen })}
              >
                Lay it flat
              </button>
            )}
            {edit(chosen)}
            <PartOf key={chosen} frame={frame} id={chosen} act={act} />
          </Chosen>
        )}
      </Panel>
      <Sizes frame={frame} act={act} />
      <Panel title="Joints">
        <JointRows frame={frame} act={act} fitting={fitting} moves={moves} />
      </Panel>
      <FromContacts
        frame={frame}
        fitting={fitting}
        act={fitting.act}
        choose={choose}
        asked={contacts}
      />
      <Couplings frame={frame} act={act} />
      <Traces frame={frame} act={act} motion={motion} />
      <Panel title="Parts list">
        <table className="table table-xs">
          <thead>
            <tr>
              <th>Item</th>
              <th>Quantity</th>
              <th>Name</th>
              <th>Mass</th>
            </tr>
          </thead>
          <tbody>
            {frame.items.map((i, line) => (
              <tr key={line}>
                <td style={{ paddingLeft: `${0.75 + 0.75 * i.level}rem` }}>{i.number}</td>
                <td>{i.quantity}</td>
                <td className="wrap-anywhere">{i.name}</td>
                <td>{i.mass}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="px-2 py-1">Together: {frame.mass}</p>
      </Panel>
      {vary}
      <Note frame={frame} act={act} />
      {versions}
    </aside>
  );
}

/** What can be done with the component that is chosen. */
function Chosen({
  frame,
  id,
  act,
  wiggle,
  children,
}: {
  frame: Frame;
  id: string;
  act: (c: Command) => void;
  wiggle: (id: string) => Promise<void>;
  children: ReactNode;
}) {
  const c = frame.components.find((x) => x.id === id);
  if (!c) return null;
  return (
    <div className="flex flex-wrap items-center gap-1 border-t border-base-300 px-2 py-1">
      <input
        className="input input-xs w-28 grow"
        aria-label="Name of the component"
        defaultValue={c.name}
        onBlur={(e) => {
          const name = e.target.value.trim();
          if (name && name !== c.name) act({ do: "rename", id, name });
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
      {c.freedom > 0 && (
        <button type="button" className="btn btn-xs" onClick={() => void wiggle(id)}>
          Wiggle
        </button>
      )}
      <button type="button" className="btn btn-xs" onClick={() => act({ do: "copy", id })}>
        Copy
      </button>
      <button
        type="button"
        className="btn btn-xs"
        onClick={() => act({ do: "pin", id, on: !c.pinned })}
      >
        {c.pinned ? "Unpin" : "Pin"}
      </button>
      <button type="button" className="btn btn-xs" onClick={() => act({ do: "remove", id })}>
        Remove
      </button>
      {children}
    </div>
  );
}
