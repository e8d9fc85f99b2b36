import type { Opened } from "../saving/saver";
import { usePlacedSheet } from "../sheet/SheetPlace";

/** The sheet that the model is made after, and where it is looked at; null where there is none. */
export function useSheet({ model }: Opened) {
  const { id, issueId, exerciseId } = model.row;
  return usePlacedSheet(
    issueId ? `issues/${issueId}` : exerciseId ? `exercises/${exerciseId}` : null,
    `/models/${id}/sheet`,
  );
}

export type SheetShown = ReturnType<typeof useSheet>;
