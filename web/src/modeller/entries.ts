import type { Entry } from "../sketch/QuickEntry";
import { type Doc, type Part, titleOf } from "./types";
import type { Commands } from "./useCommands";
import type { Forms } from "./useForms";
import type { Modelling } from "./useModel";
import type { SheetShown } from "./useSheet";
import type { Look } from "./View";

/** Everything that can be done from the modeller, by its name. */
export interface Doing {
  forms: Forms;
  m: Modelling;
  part: Part | undefined;
  commands: Commands;
  begin: (kind: string) => void;
  edit: (step: string) => void;
  draw: (step: string) => void;
  build: (until: string | null) => void;
  fit: (chosen: boolean) => void;
  look: Look;
  setLook: (look: Look) => void;
  tabs: Record<string, string>;
  show: (tab: string) => void;
  sheet: SheetShown;
  help: () => void;
}

export function entries(d: Doing): Entry[] {
  return [
    ...[...d.forms.kinds.values()].map((f) => ({
      name: `New ${f.title.toLowerCase()}`,
      note: f.what,
      run: () => d.begin(f.kind),
    })),
    ...ofSteps(d, d.m.doc),
    { name: "Undo", note: d.m.undoes, key: "Ctrl Z", run: d.m.undo },
    { name: "Redo", note: d.m.redoes, key: "Ctrl Y", run: d.m.redo },
    { name: "Build all", run: () => d.build(null) },
    { name: "Fit the part", key: "Home", run: () => d.fit(false) },
    { name: "Fit what is chosen", key: "Shift Home", run: () => d.fit(true) },
    ...ofLooks(d.look, d.setLook),
    ...Object.entries(d.tabs).map(([k, n]) => ({ name: `Show: ${n}`, run: () => d.show(k) })),
    { name: "Keys and help", key: "?", run: d.help },
    ...ofSheet(d.sheet),
  ];
}

function ofSteps(d: Doing, doc: Doc): Entry[] {
  return doc.steps.flatMap((s, i) => {
    const n = titleOf(s, d.part);
    const open = { name: `Open sketch ${n}`, run: () => d.draw(s.id) };
    return [
      ...(d.forms.isSketch(s) ? [open] : []),
      { name: `Change ${n}`, note: d.forms.called(s.kind), run: () => d.edit(s.id) },
      { name: `Turn ${s.off ? "on" : "off"} ${n}`, run: () => d.commands.turn(s.id) },
      { name: `Remove ${n}`, run: () => d.commands.remove(s.id) },
      { name: `Build up to ${n}`, run: () => d.build(s.id) },
      { name: `Move ${n} earlier`, run: () => d.commands.move(s.id, i - 1) },
      { name: `Move ${n} later`, run: () => d.commands.move(s.id, i + 1) },
    ];
  });
}

function ofLooks(look: Look, setLook: (look: Look) => void): Entry[] {
  const axes = [0, 1, 2] as const;
  return [
    { name: "Shaded", run: () => setLook({ ...look, shading: "shaded" }) },
    { name: "Hidden lines", run: () => setLook({ ...look, shading: "hidden" }) },
    { name: "Transparent", run: () => setLook({ ...look, shading: "clear" }) },
    {
      name: look.perspective ? "Parallel view" : "Perspective view",
      run: () => setLook({ ...look, perspective: !look.perspective }),
    },
    ...axes.map((axis) => ({
      name: `Section across ${"XYZ"[axis] ?? ""}`,
      run: () => setLook({ ...look, cut: { axis, at: 0.5, flip: false } }),
    })),
    { name: "No section", run: () => setLook({ ...look, cut: null }) },
  ];
}

function ofSheet(sheet: SheetShown): Entry[] {
  if (!sheet) return [];
  return [
    { name: "Sheet beside the part", run: () => sheet.put("beside") },
    { name: "Sheet over the part", run: () => sheet.put("over") },
    { name: "Put the sheet away", run: () => sheet.put("away") },
    { name: "Sheet in a window of its own", run: () => sheet.put("window") },
  ];
}
