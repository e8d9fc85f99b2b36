import { useCallback, useRef } from "react";
import type { ModelDocument, Opened, Saving } from "../saving/saver";
import { useSaving } from "../saving/savers";
import type { SketchDocument } from "./core/types";

export type SaveState = Saving | { kind: "differs"; words: string };

/**
 * Puts what is on the board into its model and lets it be saved, after every change and on
 * leaving.
 */
export function useSave({ model, saver }: Opened, step: string) {
  const saving = useSaving(saver);
  const stored = useRef(model.document);

  const body = useCallback(
    (d: SketchDocument) => {
      const doc = structuredClone(stored.current) as {
        parameters: unknown;
        steps: Record<string, unknown>[];
      };
      doc.parameters = d.parameters;
      doc.steps = doc.steps.map((s) =>
        s.id === step ? { ...s, entities: d.entities, constraints: d.constraints } : s,
      );
      return doc as unknown as ModelDocument;
    },
    [step],
  );

  const name =
    (model.document as unknown as { steps: { id: string; name?: string }[] }).steps.find(
      (s) => s.id === step,
    )?.name || step;
  /** What was opened is no change: only what was edited is taken. */
  const take = useCallback(
    (d: SketchDocument) => saver.put(body(d), `sketch ${name}`),
    [saver, body, name],
  );
  const save = useCallback(() => saver.flush(), [saver]);
  const leaving = useCallback((last: Promise<unknown>) => saver.expect(last), [saver]);

  const mine = saver.answer?.sketches.find((s) => s.step === step);
  const state: SaveState =
    saving.kind === "saved" && mine && !mine.agrees
      ? {
          kind: "differs",
          words:
            `saved, but the server places ${mine.point ?? "a point"} ` +
            `${mine.off.toPrecision(2)} mm elsewhere`,
        }
      : saving;
  return { state, save, take, leaving, body };
}
