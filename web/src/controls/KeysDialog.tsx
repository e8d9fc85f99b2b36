import type { ReactNode } from "react";
import { Dialog } from "./Dialog";

/** A list of keys with what they do, and further help below it. */
export function KeysDialog({
  title,
  keys,
  close,
  children,
}: {
  title: string;
  keys: [key: string, does: string][];
  close: () => void;
  children?: ReactNode;
}) {
  return (
    <Dialog label={title} close={close} wide>
      <h2 className="mb-2">{title}</h2>
      <dl className="grid grid-cols-[11rem_1fr] gap-x-3 gap-y-1 text-sm">
        {keys.map(([k, does]) => (
          <div key={k} className="contents">
            <dt>
              <kbd className="kbd kbd-xs">{k}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
      {children}
      <button type="button" className="btn btn-sm mt-3" autoFocus onClick={close}>
        Close
      </button>
    </Dialog>
  );
}
