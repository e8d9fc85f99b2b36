import { cx } from "../app/cx";
import type { SheetDraft } from "./useSheetDraft";

/** Turns from one sheet of a set to another; of a single one there is nothing to turn to. */
export function SheetTurner({ drawn, turn }: { drawn: SheetDraft; turn: (n: number) => void }) {
  if (drawn.sheets < 2) return null;
  return (
    <div className="join" role="radiogroup" aria-label="Sheet of the set">
      {Array.from({ length: drawn.sheets }, (_, n) => (
        <button
          key={n}
          type="button"
          role="radio"
          aria-checked={n === drawn.on}
          className={cx("btn join-item btn-xs", n === drawn.on && "btn-neutral")}
          onClick={() => turn(n)}
        >
          Sheet {n + 1}
        </button>
      ))}
    </div>
  );
}
