import { type RefObject, useLayoutEffect, useRef } from "react";
import { type Tool, drawsCircle, drawsLine } from "./tools";

/** From where something is drawn to where the pointer is, in pixels of the screen. */
export interface Stroke {
  x0: number;
  y0: number;
  x: number;
  y: number;
  down: boolean;
}

/** What is being drawn: a cutting line, a circle, or the text of a dimension at the pointer. */
export function Ghost({
  stroke,
  tool,
  text,
  frame,
}: {
  stroke: Stroke;
  tool: Tool;
  text: string | undefined;
  frame: RefObject<HTMLDivElement | null>;
}) {
  const here = useRef<SVGSVGElement>(null);
  const { x0, y0, x, y, down } = stroke;
  // It is drawn from the corner of the sheet, wherever that is on the screen.
  useLayoutEffect(() => {
    const box = frame.current?.getBoundingClientRect();
    here.current
      ?.querySelector("g")
      ?.setAttribute("transform", `translate(${-(box?.left ?? 0)} ${-(box?.top ?? 0)})`);
  });
  const level = Math.abs(x - x0) >= Math.abs(y - y0);
  return (
    <svg
      ref={here}
      className="pointer-events-none absolute inset-0 h-full w-full"
      aria-hidden="true"
    >
      <g className="sheet-ghost">
        {drawsLine(tool) && down && (
          <line x1={x0} y1={y0} x2={level ? x : x0} y2={level ? y0 : y} />
        )}
        {drawsCircle(tool) && down && <circle cx={x0} cy={y0} r={Math.hypot(x - x0, y - y0)} />}
        {tool === "dimension" && text && (
          <text x={x + 12} y={y - 8}>
            {text}
          </text>
        )}
      </g>
    </svg>
  );
}
