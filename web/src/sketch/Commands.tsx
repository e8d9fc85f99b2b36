import type { Offer } from "./core/types";
import type { Mode, Prompt } from "./modes";
import { type Entry, QuickEntry } from "./QuickEntry";
import { toolKey } from "./ToolRail";
import type { Sketching } from "./useSketch";

/** Something on the board that is on or off, with what is written on its entry either way. */
export interface Switch {
  on: boolean;
  set: (on: boolean) => void;
  /** What turning it off, or on, is called. */
  off: string;
  name: string;
}

/** What the board does besides editing its sketch. */
export interface Doing {
  setMode: (mode: Mode) => void;
  ask: (prompt: Prompt) => void;
  askAction: (doing: string, title: string, asks: string) => void;
  edit: (size: string) => void;
  nextLoose: () => void;
  wiggle: () => void;
  backToPart: (extrude: boolean) => void;
  whole: () => void;
  help: () => void;
  save: (format: "dxf" | "svg") => void;
  open: () => void;
}

interface Props {
  sk: Sketching;
  /** What is chosen, constraints apart, and what can be put on it. */
  entities: string[];
  offers: Offer[];
  traceable: boolean;
  switches: Switch[];
  doing: Doing;
  close: () => void;
}

/** Everything that can be done on the drawing board, found by typing. */
export function Commands(p: Props) {
  const entries = [
    ...drawing(p),
    ...putting(p),
    ...actions(p),
    ...leaving(p),
    ...ofTheSize(p),
    ...looking(p),
  ];
  return <QuickEntry entries={entries} close={p.close} />;
}

function drawing({ sk, doing }: Props): Entry[] {
  return (sk.lists?.tools ?? []).map((t) => ({
    name: `Draw: ${t.name}`,
    key: toolKey(t.id),
    run: () => doing.setMode({ kind: "draw", tool: t.id, places: [] }),
  }));
}

/** Sizes and constraints on what is chosen. */
function putting({ sk, entities, offers, doing }: Props): Entry[] {
  const { act } = sk;
  const sizes = offers.filter((o) => o.size);
  return [
    ...sizes.map((o) => ({
      name: `Size: ${o.words}`,
      note: o.value,
      run: () =>
        doing.ask({
          title: o.words,
          kinds: [{ kind: o.kind, words: o.words, value: o.value ?? "" }],
          value: "",
          submit: (kind, value) => act({ do: "size", kind, ids: entities, value }),
        }),
    })),
    ...sizes.map((o) => ({
      name: `Measure: ${o.words}`,
      note: `in parentheses, ${o.value}`,
      run: () => void act({ do: "size", kind: o.kind, ids: entities, on: true }),
    })),
    ...(sk.lists?.constraints ?? []).map((k) => ({
      name: `Constraint: ${k.name}`,
      note: `on ${k.on}`,
      run: () => void act({ do: "constrain", kind: k.kind, ids: entities }),
    })),
  ];
}

/** What changes curves. */
function actions({ sk, entities, doing }: Props): Entry[] {
  const { act, chosen } = sk;
  return (sk.lists?.actions ?? []).map((a) => {
    if (a.do === "trim" || a.do === "extend" || a.do === "split") {
      const edit = a.do;
      const run = () => doing.setMode({ kind: "edit", do: edit });
      return { name: a.name, note: "then put it on " + a.needs, run };
    }
    if (a.asks) {
      const run = () => doing.askAction(a.do, a.name, a.asks ?? "");
      return { name: a.name, note: a.needs, run };
    }
    if (a.do === "unjoin")
      return { name: a.name, note: a.needs, run: () => void act({ do: a.do, id: entities[0] }) };
    const remove = a.do === "remove";
    return {
      name: a.name,
      note: a.needs,
      key: remove ? "Delete" : undefined,
      run: () => void act({ do: a.do, ids: remove ? chosen : entities }),
    };
  });
}

function leaving({ traceable, doing }: Props): Entry[] {
  const trace: Entry = {
    name: "Trace an edge of the solid",
    run: () => doing.setMode({ kind: "edit", do: "trace" }),
  };
  return [
    { name: "Back to the part", key: "Alt Enter", run: () => doing.backToPart(false) },
    { name: "Extrude this", key: "Alt Shift Enter", run: () => doing.backToPart(true) },
    ...(traceable ? [trace] : []),
  ];
}

/** What can be done with the one size that is chosen. */
function ofTheSize({ sk, doing }: Props): Entry[] {
  const { act, chosen } = sk;
  const size = sk.frame?.sizes.find((s) => chosen.length === 1 && s.id === chosen[0]);
  if (!size) return [];
  return [
    { name: "Change the size", note: size.text, run: () => doing.edit(size.id) },
    {
      name: size.driven ? "Let the size hold" : "Let the size be measured, in parentheses",
      run: () => void act({ do: "drive", id: size.id, on: !size.driven }),
    },
    {
      name: size.quiet ? "Show this size again" : "Quieten this size",
      run: () => void act({ do: "quiet", id: size.id, on: !size.quiet }),
    },
  ];
}

function looking({ sk, switches, doing }: Props): Entry[] {
  const { frame } = sk;
  return [
    { name: "Undo", note: frame?.undo, key: "Ctrl Z", run: () => void sk.step("undo") },
    { name: "Redo", note: frame?.redo, key: "Ctrl Y", run: () => void sk.step("redo") },
    { name: "Show it whole", key: "Home", run: doing.whole },
    { name: "Next loose place", key: "n", run: doing.nextLoose },
    { name: "Let it wiggle", key: "w", run: doing.wiggle },
    { name: "Place all sizes by themselves again", run: () => void sk.act({ do: "tidy" }) },
    ...switches.map((s) => ({ name: s.on ? s.off : s.name, run: () => s.set(!s.on) })),
    { name: "Keys", key: "?", run: doing.help },
    { name: "Export as DXF", run: () => doing.save("dxf") },
    { name: "Export as SVG", run: () => doing.save("svg") },
    { name: "Import a DXF file", run: doing.open },
  ];
}
