import type { Verdict as Kind } from "../api/client";
import { cx } from "./cx";

/** The four shapes: in = ring, out = diamond, not found = open square, ask = triangle. */
export function Verdict({ of, words = true }: { of: Kind; words?: boolean }) {
  const shape = {
    in: <circle cx="8" cy="8" r="5.5" />,
    out: <path d="M8 1.5 14.5 8 8 14.5 1.5 8Z" fill="currentColor" />,
    "not found": <path d="M3 3h10v10H3Z" />,
    ask: <path d="M8 2 14.5 13.5h-13Z" />,
  }[of];
  return (
    <span
      className={cx(
        "inline-flex items-center gap-1 whitespace-nowrap",
        !(of === "in") && "font-semibold text-primary",
      )}
    >
      <svg
        viewBox="0 0 16 16"
        className="size-3.5 shrink-0"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.8"
        aria-hidden={words}
        role={words ? undefined : "img"}
        aria-label={words ? undefined : of}
      >
        {shape}
      </svg>
      {words && of}
    </span>
  );
}
