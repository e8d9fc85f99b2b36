import { useState } from "react";
import { usePlainKeys } from "../app/usePlainKeys";
import { KeysDialog } from "../controls/KeysDialog";

const keys: [string, string][] = [
  [".", "the next open attempt of the exercise"],
  [",", "the one before"],
  ["s", "skips this one to the end"],
  ["n", "the next balloon"],
  ["b", "the balloon before"],
  ["m", "a remark on the first finding that has none"],
  ["Ctrl Enter", "keeps the remark; Esc leaves it"],
  ["↓", "in an empty remark: what you said before of the same"],
  ["c", "the comment; Esc leaves it"],
  ["r", "returns the attempt"],
  ["R", "returns it after a look at what the check asks about"],
  ["u", "undoes the return, or takes it back"],
];

/** The keys with which attempts are marked, and the one that opens a remark. */
export function MarkingKeys() {
  const [open, setOpen] = useState(false);
  usePlainKeys((key) => {
    if (key === "?") setOpen(true);
    // The field takes the focus when it is there, and not the letter that opened it.
    if (key === "m")
      window.setTimeout(() => document.querySelector<HTMLElement>("[data-add-remark]")?.click());
  });
  return (
    <>
      <button type="button" className="btn btn-xs" onClick={() => setOpen(true)}>
        Keys <kbd className="kbd kbd-xs">?</kbd>
      </button>
      {open && <KeysDialog title="Keys for marking" keys={keys} close={() => setOpen(false)} />}
    </>
  );
}
