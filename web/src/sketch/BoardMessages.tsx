import type { ReactNode } from "react";
import { cx } from "../app/cx";
import { Bar, sentence } from "../controls/notices";

import type { Mode } from "./modes";
import type { Offered } from "./useOffers";
import type { Prompting } from "./usePrompt";
import type { Sketching } from "./useSketch";

/** What there is to say over the drawing board. */
export function BoardMessages(p: {
  sk: Sketching;
  prompting: Prompting;
  offered: Offered;
  warnings: string[];
  children: ReactNode;
}) {
  const { word, say, step } = p.sk;
  const { waiting, prompt } = p.prompting;
  const { entities, ready } = p.offered;
  return (
    <div
      className={cx(
        "absolute top-2 right-2 left-2 z-10 flex flex-col items-start gap-1",
        "empty:hidden",
      )}
    >
      {p.children}
      {waiting !== null && !prompt && (entities.length === 0 || ready) && (
        <Bar>
          “{waiting.trim()}” waits:{" "}
          {entities.length === 0
            ? "choose what it is the size of"
            : "no size goes on these together; choose something else"}
          .{" "}
          <button type="button" className="btn btn-ghost btn-xs" onClick={p.prompting.dropTyped}>
            Let it go
          </button>
        </Bar>
      )}
      {word && !prompt && (
        <Bar bad={word.bad}>
          {sentence(word.text)}{" "}
          {word.undo && (
            <button type="button" className="btn btn-xs" onClick={() => void step("undo")}>
              Undo
            </button>
          )}{" "}
          <button type="button" className="btn btn-ghost btn-xs" onClick={() => say(null)}>
            Close
          </button>
        </Bar>
      )}
      {!word &&
        p.warnings.map((w) => (
          <Bar key={w} bad>
            {sentence(w)}
          </Bar>
        ))}
    </div>
  );
}

const asks: Record<string, string> = {
  trim: "Put it on the piece that goes",
  extend: "Put it on the end that is too short",
  split: "Put it where the curve is to be split",
  trace: "Pick an edge of the solid, or go through them with . and , and take one with Enter",
};

/** What the tool that is taken asks for. */
export function Asked({
  mode,
  sides,
  setSides,
}: {
  mode: Mode;
  sides: number;
  setSides: (n: number) => void;
}) {
  if (mode.kind === "draw" && mode.tool.startsWith("polygon"))
    return (
      <label
        className={cx(
          "absolute top-2 left-2 flex items-center gap-1 bg-base-100 px-2",
          "py-1 text-sm",
        )}
      >
        Sides
        <input
          type="number"
          className="input input-xs w-16"
          min={3}
          max={64}
          value={sides}
          onChange={(e) => setSides(Math.min(64, Math.max(3, Number(e.target.value))))}
        />
      </label>
    );
  if (mode.kind !== "edit") return null;
  return (
    <p
      className="pointer-events-none absolute bottom-2 left-3 bg-base-100/85 px-1 text-sm"
      role="status"
    >
      {asks[mode.do]}. Esc ends.
    </p>
  );
}
