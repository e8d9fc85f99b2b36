import { useState } from "react";
import type { Opened } from "../saving/saver";
import type { SheetPlace } from "./SheetBeside";

/** The sheet that the model is made after, and where it is looked at; null where there is none. */
export function useSheet({ model }: Opened) {
  const { id, issueId, exerciseId } = model.row;
  const of = issueId ? `issues/${issueId}` : exerciseId ? `exercises/${exerciseId}` : null;
  const [place, setPlace] = useState<SheetPlace>(
    of !== null && window.innerWidth >= 1100 ? "beside" : "away",
  );
  if (of === null) return null;
  const put = (next: SheetPlace | "window") => {
    if (next === "window")
      window.open(`/models/${id}/sheet`, `sheet-${id}`, "width=1000,height=720");
    else setPlace(next);
  };
  return { url: `/api/${of}/sheet`, place, put };
}

export type SheetShown = ReturnType<typeof useSheet>;
