// Symbols of constraints, drawn about (0, 0) in a field of 12 by 12. Parallel,
// perpendicular, concentric and symmetric are those of ISO 1101.
const paths: Record<string, string> = {
  coincident:
    "M0 -1.6A1.6 1.6 0 1 1 0 1.6A1.6 1.6 0 1 1 0 -1.6" +
    "M0 -4.6A4.6 4.6 0 1 1 0 4.6A4.6 4.6 0 1 1 0 -4.6",
  "on-curve": "M-5 3Q0 -4 5 3M-1.5 -0.5A1.5 1.5 0 1 1 1.5 -0.5A1.5 1.5 0 1 1 -1.5 -0.5",
  horizontal: "M-5 0L5 0M-5 -2.5L-5 2.5M5 -2.5L5 2.5",
  vertical: "M0 -5L0 5M-2.5 -5L2.5 -5M-2.5 5L2.5 5",
  parallel: "M-4 4L0 -4M0 4L4 -4",
  perpendicular: "M-5 4L5 4M0 4L0 -5",
  tangent: "M-5 4L5 4M0 4A3.6 3.6 0 1 1 0.01 4",
  concentric: "M0 -2A2 2 0 1 1 0 2A2 2 0 1 1 0 -2M0 -5A5 5 0 1 1 0 5A5 5 0 1 1 0 -5",
  collinear: "M-5 3L-1 1M1 0L5 -2",
  equal: "M-4 -2L4 -2M-4 2L4 2",
  symmetric: "M0 -5L0 5M-5 -2L-2 -2M-5 2L-2 2M5 -2L2 -2M5 2L2 2",
  midpoint: "M-5 0L5 0M-5 -2.5L-5 2.5M5 -2.5L5 2.5M0 -3.5L2 0L0 3.5L-2 0Z",
  fixed: "M-4 -4L4 4M-4 4L4 -4M-5 0L5 0",
};

export function symbol(kind: string) {
  return paths[kind] ?? "M-3 -3H3V3H-3Z";
}

/** A constraint's symbol in a button or a list. */
export function Symbol({ kind }: { kind: string }) {
  return (
    <svg
      viewBox="-7 -7 14 14"
      className="size-4 shrink-0"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.2"
      aria-hidden
    >
      <path d={symbol(kind)} />
    </svg>
  );
}

const tools: Record<string, string> = {
  choose: "M-5 -6L6 0L1 1.5L3.5 6L1.5 7L-1 2.5L-5 6Z",
  line: "M-6 5L6 -5M-7 5A1 1 0 1 1 -5 5A1 1 0 1 1 -7 5M5 -5A1 1 0 1 1 7 -5A1 1 0 1 1 5 -5",
  arc: "M-6 5A11 11 0 0 1 6 -5M5 5A1 1 0 1 1 7 5A1 1 0 1 1 5 5",
  "arc-through": "M-6 4A7 7 0 1 1 6 4M-1 -5.5A1 1 0 1 1 1 -5.5A1 1 0 1 1 -1 -5.5",
  circle: "M-6 0A6 6 0 1 1 6 0A6 6 0 1 1 -6 0M-1 0A1 1 0 1 1 1 0A1 1 0 1 1 -1 0",
  rectangle: "M-6 4L6 4L6 -4L-6 -4ZM-7 4A1 1 0 1 1 -5 4A1 1 0 1 1 -7 4",
  "rectangle-centre": "M-6 4L6 4L6 -4L-6 -4ZM-1 0A1 1 0 1 1 1 0A1 1 0 1 1 -1 0",
  polygon: "M6 0L3 5.2L-3 5.2L-6 0L-3 -5.2L3 -5.2ZM5 0A1 1 0 1 1 7 0A1 1 0 1 1 5 0",
  "polygon-flats": "M5.2 3L0 6L-5.2 3L-5.2 -3L0 -6L5.2 -3ZM4.2 0A1 1 0 1 1 6.2 0A1 1 0 1 1 4.2 0",
  slot: "M-3 -3L3 -3A3 3 0 0 1 3 3L-3 3A3 3 0 0 1 -3 -3Z",
  "curved-slot": "M-6 3A8 8 0 0 1 6 3A2 2 0 0 1 2 5A4 4 0 0 0 -2 5A2 2 0 0 1 -6 3Z",
  ellipse: "M-6.5 0A6.5 3.6 0 1 1 6.5 0A6.5 3.6 0 1 1 -6.5 0",
  spline:
    "M-6 4C-3 -8 2 8 6 -4M-7 4A1 1 0 1 1 -5 4A1 1 0 1 1 -7 4M5 -4A1 1 0 1 1 7 -4A1 1 0 1 1 5 -4",
  "spline-poles": "M-6 4C-4 -6 4 -6 6 4M-6 4L-4 -5L4 -5L6 4",
  point: "M-1.6 0A1.6 1.6 0 1 1 1.6 0A1.6 1.6 0 1 1 -1.6 0M0 -6L0 -3M0 3L0 6M-6 0L-3 0M3 0L6 0",
  trim: "M-6 0L-2 0M2 0L6 0M-2 -5L-2 5M2 -5L2 5M-1 1.5L1 -1.5",
  extend: "M-6 0L0 0M5 -5L5 5M0 0L5 0M2.5 -2L5 0L2.5 2",
  split: "M-6 0L-1 0M1 0L6 0M-1.5 -4L1.5 4",
  trace: "M-6 3L6 -1M-6 6L6 2",
};

/** The picture of a tool. */
export function ToolPicture({ tool }: { tool: string }) {
  return (
    <svg
      viewBox="-8 -8 16 16"
      className="size-5"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.2"
      strokeLinejoin="round"
      aria-hidden
    >
      <path d={tools[tool] ?? ""} strokeDasharray={tool === "trace" ? "2 1.5" : undefined} />
    </svg>
  );
}
