import { useMutation } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { Panel, Trouble } from "../controls/notices";
import type { Command, Fitting, Frame, Proposed } from "./useFitting";

const key = (p: Proposed) => `${p.join.kind} ${p.join.a} ${p.join.b}`;

/** Joints that are read from where components touch: they are offered, and made once confirmed. */
export function FromContacts({
  frame,
  fitting,
  act,
  choose,
  asked,
}: {
  frame: Frame;
  fitting: Fitting;
  act: (c: Command) => Promise<boolean>;
  choose: (id: string) => void;
  /** How often it was asked for elsewhere. */
  asked: number;
}) {
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const read = useMutation({
    mutationFn: async () => ({ of: frame.revision, list: await fitting.propose() }),
    onSuccess: ({ list }) => setTicked(new Set(list.filter((p) => p.takes > 0).map(key))),
  });
  const again = useEffectEvent(() => read.mutate());
  /** How often all was laid flat here, after which it is read anew. */
  const [laid, setLaid] = useState(0);
  useEffect(() => {
    if (asked + laid > 0) again();
  }, [asked, laid]);
  const layFlat = async () => {
    if (await act({ do: "lay-all-flat" })) setLaid(laid + 1);
  };
  const list = read.data?.of === frame.revision ? read.data.list : null;
  const wanted = list?.filter((p) => ticked.has(key(p))) ?? [];
  const shown = useRef<HTMLDivElement>(null);
  useEffect(() => {
    shown.current?.scrollIntoView({ block: "nearest" });
  }, [read.data]);
  if (frame.components.length < 2) return null;
  if (!list)
    return (
      <div className="px-2 py-1">
        <button
          type="button"
          className="btn btn-xs"
          disabled={read.isPending}
          title="Look where components that are not joined touch, and offer joints for them"
          onClick={() => read.mutate()}
        >
          {read.isPending ? "Reading the contacts …" : "Read joints from the contacts"}
        </button>
        {read.error && <Trouble error={read.error} retry={() => read.mutate()} />}
      </div>
    );
  return (
    <div ref={shown}>
      <Panel title="Joints read from the contacts">
        {list.length === 0 ? (
          <p className="px-2 py-1">
            Nothing that is not joined yet touches something: there is no joint to read.
          </p>
        ) : (
          <p className="px-2 py-1 text-xs">
            Each holds its components as they stand. Those that are not ticked repeat what the
            others hold.
          </p>
        )}
        {frame.components.some((c) => c.nested) && (
          <div className="px-2 py-1">
            <p className="text-xs">
              What is nested is one body, so that joints within it are not among these. Laid flat,
              it stays a group in the parts list, and its own contacts are read too.
            </p>
            <button type="button" className="btn btn-xs mt-1" onClick={() => void layFlat()}>
              Lay all flat, and read again
            </button>
          </div>
        )}
        <ul className="max-h-72 overflow-auto">
          {list.map((p) => (
            <li key={key(p)} className="px-2 py-0.5">
              <label className="flex items-start gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs mt-0.5"
                  checked={ticked.has(key(p))}
                  onChange={(e) => {
                    const next = new Set(ticked);
                    if (e.target.checked) next.add(key(p));
                    else next.delete(key(p));
                    setTicked(next);
                  }}
                  onFocus={() => choose(p.join.a.split("#")[0] ?? "")}
                />
                <span title={p.words}>
                  {p.title}
                  {p.takes === 0 && <span className="text-xs"> (repeats)</span>}
                </span>
              </label>
            </li>
          ))}
        </ul>
        <div className="flex gap-2 px-2 py-1">
          <button
            type="button"
            className="btn btn-primary btn-xs"
            disabled={wanted.length === 0}
            onClick={() => void act({ do: "join-all", joins: wanted.map((p) => p.join) })}
          >
            {wanted.length === 1 ? "Make this joint" : `Make these ${wanted.length} joints`}
          </button>
          <button type="button" className="btn btn-xs" onClick={() => read.reset()}>
            Put away
          </button>
        </div>
      </Panel>
    </div>
  );
}
