import type { ReactNode } from "react";
import { cx } from "../app/cx";
import { Bar, sentence } from "../controls/notices";

import type { Look } from "./View";
import type { Commands } from "./useCommands";
import type { Drafting } from "./useDraft";
import type { Rebuild } from "./useRebuild";
import { titleOf } from "./types";

/** Something that is said over the part. */
export interface Said {
  bad: boolean;
  text: string;
}

/** What there is to say over the part, the newest last. */
export function Messages(p: {
  look: Look;
  setLook: (look: Look) => void;
  drafting: Drafting;
  main: Rebuild;
  commands: Commands;
  said: Said | null;
  say: (said: Said | null) => void;
  children: ReactNode;
}) {
  const { drafting, main, said, commands } = p;
  const { field, aside, draft } = drafting;
  const slow = main.busy && main.progress?.running && main.progress.stage !== "";
  return (
    <div
      className={cx(
        "pointer-events-none absolute top-2 right-2 left-2 z-10 flex flex-col",
        "items-start gap-1 *:pointer-events-auto empty:hidden",
      )}
    >
      {p.look.cut && <Cut look={p.look} setLook={p.setLook} cut={p.look.cut} />}
      {field && (
        <Bar>
          Pick for “{field.label}”{field.hint && `: ${field.hint}`}.{" "}
          <button type="button" className="btn btn-xs" onClick={() => drafting.activate(null)}>
            Done picking
          </button>
        </Bar>
      )}
      {slow && (
        <Bar>
          <span className="flex items-center gap-2">
            <span className="loading loading-ring loading-xs" />
            Rebuilding {main.progress?.stage}{" "}
            <progress className="progress w-32" value={main.progress?.done ?? 0} max={1} />
            <button type="button" className="btn btn-xs" onClick={main.cancel}>
              Cancel
            </button>
          </span>
        </Bar>
      )}
      {main.error && !draft && (
        <Bar bad>
          {sentence(main.error.what)} {main.error.remedy && sentence(main.error.remedy)}{" "}
          <button type="button" className="btn btn-xs" onClick={main.retry}>
            Try again
          </button>
        </Bar>
      )}
      {p.children}
      {aside && (
        <Bar>
          {sentence(`${titleOf(aside.step, main.part)} is left as you filled it in`)}{" "}
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => {
              drafting.setDraft(aside);
              drafting.setAside(null);
            }}
          >
            Open it again
          </button>{" "}
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            onClick={() => drafting.setAside(null)}
          >
            Let it go
          </button>
        </Bar>
      )}
      {commands.sure && (
        <Bar bad>
          {sentence(commands.sure.text)}{" "}
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => commands.sure && commands.remove(commands.sure.id, true)}
          >
            Remove them too
          </button>{" "}
          <button type="button" className="btn btn-xs" onClick={commands.keepAll}>
            Keep all
          </button>
        </Bar>
      )}
      {said && (
        <Bar bad={said.bad}>
          {sentence(said.text)}{" "}
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-label="Close the message"
            onClick={() => p.say(null)}
          >
            ×
          </button>
        </Bar>
      )}
    </div>
  );
}

/** Where the section is, and which half is seen. */
function Cut({
  look,
  setLook,
  cut,
}: {
  look: Look;
  setLook: (look: Look) => void;
  cut: NonNullable<Look["cut"]>;
}) {
  return (
    <Bar>
      <span className="flex items-center gap-2">
        Section
        <input
          type="range"
          className="range range-xs w-40"
          aria-label="Place of the section"
          min={0.005}
          max={0.995}
          step={0.005}
          value={cut.at}
          onChange={(e) => setLook({ ...look, cut: { ...cut, at: Number(e.target.value) } })}
        />
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => setLook({ ...look, cut: { ...cut, flip: !cut.flip } })}
        >
          Other half
        </button>
      </span>
    </Bar>
  );
}
