import { cx } from "../app/cx";
import type { Command, Frame } from "./useFitting";

/** How far each level of groups is set in, in rem. */
const step = 0.75;

/** The components, in groups where the assembly was laid flat out of others. */
export function ComponentList({
  frame,
  chosen,
  choose,
  hidden,
  hide,
  act,
}: {
  frame: Frame;
  chosen: string | null;
  choose: (id: string | null) => void;
  hidden: ReadonlySet<string>;
  hide: (hidden: ReadonlySet<string>) => void;
  act: (c: Command) => void;
}) {
  const turn = (ids: string[]) => {
    const shown = ids.some((id) => !hidden.has(id));
    const next = new Set(hidden);
    for (const id of ids)
      if (shown) next.add(id);
      else next.delete(id);
    hide(next);
  };
  const below = (group: string): string[] => [
    ...frame.components.filter((c) => c.in === group).map((c) => c.id),
    ...frame.groups.filter((g) => g.in === group).flatMap((g) => below(g.id)),
  ];
  const list = (group: string, level: number) => (
    <>
      {frame.components
        .filter((c) => c.in === group)
        .map((c) => (
          <li
            key={c.id}
            className={cx("flex items-center gap-1 px-2 py-0.5", chosen === c.id && "bg-base-200")}
            style={{ paddingLeft: `${0.5 + step * level}rem` }}
          >
            <button
              type="button"
              // Of a long name the end tells components apart: it is cut off at its beginning.
              className="min-w-0 flex-1 truncate text-left [direction:rtl]"
              title={c.name}
              aria-pressed={chosen === c.id}
              onClick={() => choose(chosen === c.id ? null : c.id)}
            >
              <bdi>{c.name}</bdi>
            </button>
            <span className="text-xs opacity-80">
              {c.pinned ? "pinned" : c.freedom === 0 ? "held" : `${c.freedom} free`}
            </span>
            <button type="button" className="btn btn-ghost btn-xs" onClick={() => turn([c.id])}>
              {hidden.has(c.id) ? "Show" : "Hide"}
            </button>
          </li>
        ))}
      {frame.groups
        .filter((g) => g.in === group)
        .map((g) => (
          <li key={g.id} aria-label={`Group ${g.name}`}>
            <div
              className="flex items-center gap-1 border-t border-base-300 px-2 py-0.5"
              style={{ paddingLeft: `${0.5 + step * level}rem` }}
            >
              <span className="text-xs">{g.number}</span>
              <input
                key={g.name}
                className="input input-ghost input-xs min-w-0 flex-1 font-semibold"
                aria-label="Name of the group"
                title="Its name in the parts list, and that of all groups like it"
                defaultValue={g.name}
                maxLength={100}
                onBlur={(e) => {
                  const name = e.target.value.trim();
                  if (name && name !== g.name) act({ do: "name-group", id: g.id, name });
                }}
                onKeyDown={(e) => {
                  if (e.key === "Enter") e.currentTarget.blur();
                }}
              />
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                aria-label={`End the group ${g.name}`}
                title={
                  "End the group: its components stand by themselves in the parts list; " +
                  "nothing moves, and all joints stay"
                }
                onClick={() => act({ do: "end-group", id: g.id })}
              >
                End
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                onClick={() => turn(below(g.id))}
              >
                {below(g.id).every((id) => hidden.has(id)) ? "Show" : "Hide"}
              </button>
            </div>
            <ul>{list(g.id, level + 1)}</ul>
          </li>
        ))}
    </>
  );
  return <ul className="max-h-80 overflow-auto">{list("", 0)}</ul>;
}
