import { useState } from "react";

export const directions: Record<string, [number, number, number]> = {
  Front: [0, -1, 0],
  Rear: [0, 1, 0],
  Top: [0, 0, 1],
  Bottom: [0, 0, -1],
  Right: [1, 0, 0],
  Left: [-1, 0, 0],
  Pictorial: [1, -1, 1],
};

// Right and up of each pane, as the viewer in front of it sees them.
const panes: [string, [number, number, number], [number, number, number]][] = [
  ["Front", [1, 0, 0], [0, 0, 1]],
  ["Rear", [-1, 0, 0], [0, 0, 1]],
  ["Top", [1, 0, 0], [0, 1, 0]],
  ["Bottom", [1, 0, 0], [0, -1, 0]],
  ["Right", [0, 1, 0], [0, 0, 1]],
  ["Left", [0, -1, 0], [0, 0, 1]],
];

// The box unfolded as ISO 5456-2 lays out views in first-angle projection: what is
// seen from the left stands on the right, what is seen from above stands below.
const unfolded: (string | null)[] = [
  null,
  "Bottom",
  null,
  null,
  "Right",
  "Front",
  "Left",
  "Rear",
  null,
  "Top",
  null,
  null,
];

const half = 24;

function pane(
  right: [number, number, number],
  up: [number, number, number],
  n: [number, number, number],
) {
  const down = up.map((v) => -v);
  const out = n.map((v) => v * half);
  return `translate(-50%, -50%) matrix3d(${[...right, 0, ...down, 0, ...n, 0, ...out, 1].join()})`;
}

/**
 * The glass box: it turns with the view; a pane brings its view to the front, and it unfolds as
 * projection is taught.
 */
export function GlassBox({
  turn,
  cube,
}: {
  turn: (name: string) => void;
  cube: (e: HTMLDivElement | null) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <div className="absolute right-2 bottom-2 flex flex-col items-end gap-1" aria-label="Glass box">
      {open ? (
        <div
          className="grid grid-cols-4 gap-px border border-base-300 bg-base-300"
          role="group"
          aria-label="Views, unfolded"
        >
          {unfolded.map((v, i) =>
            v ? (
              <button
                key={v}
                type="button"
                className="glass-pane static! size-11!"
                onClick={() => turn(v)}
              >
                {v}
              </button>
            ) : (
              <span key={i} className="size-11 bg-base-200" />
            ),
          )}
        </div>
      ) : (
        <div className="grid size-24 place-items-center">
          <div ref={cube} className="glass-box" role="group" aria-label="Views">
            {panes.map(([name, right, up]) => (
              <button
                key={name}
                type="button"
                className="glass-pane"
                style={{ transform: pane(right, up, directions[name] ?? [0, 0, 1]) }}
                onClick={() => turn(name)}
              >
                {name}
              </button>
            ))}
          </div>
        </div>
      )}
      <div className="join">
        <button type="button" className="btn btn-xs join-item" onClick={() => turn("Pictorial")}>
          Pictorial
        </button>
        <button
          type="button"
          className="btn btn-xs join-item"
          aria-pressed={open}
          onClick={() => setOpen(!open)}
        >
          {open ? "Fold" : "Unfold"}
        </button>
      </div>
    </div>
  );
}
