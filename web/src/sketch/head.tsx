import { Entry, Menu } from "../controls/Menu";
import type { SaveState } from "./useSave";

const saveWords: Record<string, string> = {
  saved: "Saved",
  unsaved: "Not saved yet",
  saving: "Saving …",
};

/** Whether the sketch is saved, in a place of its own that does not move what stands beside it. */
export function Saved({ state }: { state: SaveState }) {
  return (
    <span className="w-24 shrink-0 text-sm whitespace-nowrap" role="status" data-save={state.kind}>
      {saveWords[state.kind] ?? "Not saved"}
    </span>
  );
}

/** Reading and writing files. */
export function Files({
  open,
  save,
}: {
  open: () => void;
  save: (kind: "dxf" | "svg") => Promise<void>;
}) {
  return (
    <Menu name="Files">
      <Entry name="Import a DXF file" run={open} />
      <Entry name="Export as DXF" run={() => void save("dxf")} />
      <Entry name="Export as SVG" run={() => void save("svg")} />
    </Menu>
  );
}
