import { type ReactNode, useRef } from "react";
import type { SaveState } from "./useSave";
import { cx } from "../app/cx";

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

/** A message over the drawing board: it covers a little and moves nothing. */
export function Bar({ bad = false, children }: { bad?: boolean; children: ReactNode }) {
  return (
    <div
      role={bad ? "alert" : "status"}
      className={cx(
        "border border-base-300 bg-base-100 px-3 py-1 text-sm shadow",
        bad && "border-l-4 border-l-error",
      )}
    >
      {children}
    </div>
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
  const menu = useRef<HTMLDetailsElement>(null);
  const entry = (name: string, go: () => void) => (
    <li>
      <button
        type="button"
        onClick={() => {
          menu.current?.removeAttribute("open");
          go();
        }}
      >
        {name}
      </button>
    </li>
  );
  return (
    <details ref={menu} className="dropdown dropdown-end">
      <summary className="btn btn-xs">Files</summary>
      <ul className="menu dropdown-content z-30 w-48 border border-base-300 bg-base-100 shadow">
        {entry("Import a DXF file", open)}
        {entry("Export as DXF", () => void save("dxf"))}
        {entry("Export as SVG", () => void save("svg"))}
      </ul>
    </details>
  );
}
