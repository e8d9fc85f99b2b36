import { useState } from "react";
import { KeysDialog } from "../controls/KeysDialog";
import { cx } from "../app/cx";

const keys: [string, string][] = [
  ["q", "type what you want to do: every step, view and command is there by its name"],
  ["click, Shift click", "choose a face, edge or corner; choose one more"],
  ["drag, right drag, wheel", "turn, shift, come nearer"],
  ["arrows, + −", "the same with the view in focus"],
  ["Home, Shift Home", "fit the part; fit what is chosen"],
  ["Enter", "change the marked step"],
  ["Delete", "remove the marked step"],
  ["Esc", "end picking; leave the step; choose nothing"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["Ctrl S", "save now"],
];

/** The keys of the modeller. */
export function Help({ close }: { close: () => void }) {
  return (
    <KeysDialog title="Keys of the modeller" keys={keys} close={close}>
      <p className="mt-3 text-sm">
        Choose first, then begin a step: what is chosen goes in where it fits. While a field says
        “Done picking”, a click in the view fills it; the part is then shown as it is before the
        step.
      </p>
    </KeysDialog>
  );
}

/** Said once, to who opens the modeller for the first time. */
export function FirstHelp() {
  const [gone, setGone] = useState(() => localStorage.getItem("modeller-known") !== null);
  if (gone) return null;
  const close = () => {
    localStorage.setItem("modeller-known", "yes");
    setGone(true);
  };
  return (
    <div
      className={cx(
        "absolute bottom-10 left-3 z-10 w-80 border border-base-300 bg-base-100",
        "p-3 text-sm shadow",
      )}
      role="note"
      aria-label="First steps"
    >
      <p className="mb-1 font-semibold">How a part is made here</p>
      <ol className="list-decimal pl-4">
        <li>Enter the sizes that drive the rest under “Sizes”.</li>
        <li>Draw a sketch on a plane, and bring it to zero loose.</li>
        <li>Extrude or revolve it; drill, round and repeat.</li>
        <li>Try other sizes and look it over, then hand it in.</li>
      </ol>
      <p className="mt-1">
        Press <kbd className="kbd kbd-xs">q</kbd> and type what you want to do.
      </p>
      <button type="button" className="btn btn-xs mt-2" onClick={close}>
        Got it
      </button>
    </div>
  );
}
