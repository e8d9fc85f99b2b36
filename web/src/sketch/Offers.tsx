import type { Offer } from "./core/types";
import { Symbol } from "./symbols";
import { cx } from "../app/cx";

/** The keys of the home row, for what is offered. */
export const homeRow = ["a", "s", "d", "f", "g", "h", "j", "k", "l"];

export const constraintsOffered = (offers: Offer[]) =>
  offers
    .filter((o) => !o.size)
    .sort((a, b) => Number(b.adds) - Number(a.adds))
    .slice(0, homeRow.length);

interface Props {
  chosen: string[];
  /** What they are called. */
  called: string[];
  offers: Offer[];
  ready: boolean;
  put: (o: Offer) => void;
  size: () => void;
}

/**
 * What can be put on what is chosen: a size by typing it, constraints by the keys under the hand.
 */
export function Offers({ chosen, called, offers, ready, put, size }: Props) {
  if (chosen.length === 0) return null;
  const sizes = offers.filter((o) => o.size);
  return (
    <div
      className={cx(
        "absolute right-2 bottom-2 left-2 flex flex-wrap items-center gap-1 border",
        "border-base-300 bg-base-100/95 px-2 py-1 text-sm",
      )}
      role="toolbar"
      aria-label="What can be put on what is chosen"
    >
      <span className="mr-1 max-w-72 truncate font-semibold" title={chosen.join(", ")}>
        {chosen.length > 3 ? `${chosen.length} things` : called.join(", ")}
      </span>
      {sizes[0] && (
        <button type="button" className="btn btn-xs" onClick={size}>
          <kbd className="kbd kbd-xs">12</kbd>
          {sizes[0].words} {sizes[0].value}
        </button>
      )}
      {constraintsOffered(offers).map((o, i) => (
        <button
          key={o.kind}
          type="button"
          className={`btn btn-xs ${o.adds ? "" : "btn-ghost"}`}
          title={o.adds ? o.words : `${o.words}: holds already`}
          onClick={() => put(o)}
        >
          <kbd className="kbd kbd-xs">{homeRow[i]}</kbd>
          <Symbol kind={o.kind} />
          {o.kind.replaceAll("-", " ")}
        </button>
      ))}
      {ready && offers.length === 0 && <span>nothing can be put on these together</span>}
    </div>
  );
}
