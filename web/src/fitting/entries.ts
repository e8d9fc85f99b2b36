import type { Entry } from "../sketch/QuickEntry";
import type { Picked } from "./picking";
import type { Shapes } from "./assemblies";
import type { Command, Frame } from "./useFitting";

/** Everything that can be done from the fitting screen, by its name. */
export interface Doing {
  frame: Frame;
  shapes: Shapes;
  act: (c: Command) => void;
  choose: (id: string) => void;
  pick: (p: Picked) => void;
  replace: (id: string) => void;
  /** What opens the model of a component in its place, where that can be done. */
  edit: (id: string) => (() => void) | null;
  hidden: ReadonlySet<string>;
  hide: (hidden: ReadonlySet<string>) => void;
  plain: Entry[];
}

export function entries(d: Doing): Entry[] {
  return [...d.plain, ...ofNested(d), ...ofComponents(d), ...ofJoints(d), ...ofFeatures(d)];
}

function ofNested(d: Doing): Entry[] {
  if (!d.frame.components.some((c) => c.nested)) return [];
  return [{ name: "Lay all that is nested flat", run: () => d.act({ do: "lay-all-flat" }) }];
}

function ofComponents(d: Doing): Entry[] {
  const all = d.frame.components.map((c) => c.id);
  return d.frame.components.flatMap((c) => {
    const id = c.id;
    const shown = !d.hidden.has(id);
    const edit = d.edit(id);
    const but = (set: Iterable<string>, take: boolean) => {
      const next = new Set(set);
      if (take) next.add(id);
      else next.delete(id);
      return next;
    };
    return [
      { name: `Choose ${c.name}`, run: () => d.choose(id) },
      {
        name: `${c.pinned ? "Unpin" : "Pin"} ${c.name}`,
        run: () => d.act({ do: "pin", id, on: !c.pinned }),
      },
      { name: `${shown ? "Hide" : "Show"} ${c.name}`, run: () => d.hide(but(d.hidden, shown)) },
      { name: `Show ${c.name} alone`, run: () => d.hide(but(all, false)) },
      { name: `Copy ${c.name}`, run: () => d.act({ do: "copy", id }) },
      { name: `Replace ${c.name}`, run: () => d.replace(id) },
      { name: `Remove ${c.name}`, run: () => d.act({ do: "remove", id }) },
      ...(edit ? [{ name: `Edit ${c.name} in its place`, run: edit }] : []),
      ...(c.nested
        ? [
            {
              name: c.moving ? `Hold ${c.name} rigid` : `Let ${c.name} move in itself`,
              run: () => d.act({ do: "moving", id, on: !c.moving }),
            },
            { name: `Lay ${c.name} flat`, run: () => d.act({ do: "lay-flat", id }) },
          ]
        : []),
    ];
  });
}

function ofJoints(d: Doing): Entry[] {
  return d.frame.joints.flatMap(({ joint, title, turns }) => [
    {
      name: `${joint.off ? "Hold" : "Loosen"} ${title}`,
      run: () => d.act({ do: "switch-joint", id: joint.id, on: joint.off === true }),
    },
    ...(turns
      ? [
          {
            name: `Turn the other way round: ${title}`,
            run: () => d.act({ do: "flip", id: joint.id }),
          },
        ]
      : []),
    { name: `Remove ${title}`, run: () => d.act({ do: "remove-joint", id: joint.id }) },
  ]);
}

/** What can be picked, so that joints are made without a mouse too. */
function ofFeatures(d: Doing): Entry[] {
  return d.frame.components.flatMap((c) =>
    (d.shapes[c.shape]?.features ?? []).map((f) => ({
      name: `Pick ${c.name}: ${f.words}`,
      note: f.form,
      run: () => d.pick({ component: c.id, name: f.name, words: f.words }),
    })),
  );
}
