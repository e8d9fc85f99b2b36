import { type ReactNode, useRef } from "react";
import { sentence } from "../app/states";
import type { SaveState } from "./useSave";

const saveWords: Record<string, string> = { saved: "Saved", unsaved: "Not saved yet", saving: "Saving …" };

/** Whether the sketch is saved, in a place of its own that does not move what stands beside it. */
export function Saved({ state }: { state: SaveState }) {
  return <span className="w-24 shrink-0 text-sm whitespace-nowrap" role="status" data-save={state.kind}>{saveWords[state.kind] ?? "Not saved"}</span>;
}

/** What went wrong with saving, and the ways out. */
export function SaveTrouble({ state, retry, apart }: { state: SaveState; retry: () => void; apart: () => void }) {
  if (state.kind === "failed") return <Bar bad>Not saved: {state.problem.what}{state.problem.remedy && `; ${state.problem.remedy}`}. <button type="button" className="btn btn-xs" onClick={retry}>Try again</button></Bar>;
  if (state.kind === "stale") return <Bar bad>This model was changed in another window; nothing was overwritten. <button type="button" className="btn btn-xs" onClick={() => window.location.reload()}>See that change</button> <button type="button" className="btn btn-xs" onClick={apart}>Keep mine as a model of its own</button></Bar>;
  if (state.kind === "differs") return <Bar bad>{sentence(state.words)}</Bar>;
  return null;
}

/** A message over the drawing board: it covers a little and moves nothing. */
export function Bar({ bad = false, children }: { bad?: boolean; children: ReactNode }) {
  return <div role={bad ? "alert" : "status"} className={`border border-base-300 bg-base-100 px-3 py-1 text-sm shadow ${bad ? "border-l-4 border-l-error" : ""}`}>{children}</div>;
}

/** Reading and writing files. */
export function Files({ open, save }: { open: () => void; save: (kind: "dxf" | "svg") => Promise<void> }) {
  const menu = useRef<HTMLDetailsElement>(null);
  const entry = (name: string, go: () => void) => <li><button type="button" onClick={() => { menu.current?.removeAttribute("open"); go(); }}>{name}</button></li>;
  return (
    <details ref={menu} className="dropdown dropdown-end">
      <summary className="btn btn-xs">Files</summary>
      <ul className="menu dropdown-content z-30 w-48 border border-base-300 bg-base-100 shadow">{entry("Import a DXF file", open)}{entry("Export as DXF", () => void save("dxf"))}{entry("Export as SVG", () => void save("svg"))}</ul>
    </details>
  );
}
