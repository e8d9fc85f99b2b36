import { type ReactNode, useState } from "react";
import { cx } from "../app/cx";

/** Where a sheet is beside what is made after it. */
type Place = "away" | "beside" | "over";

export interface PlacedSheet {
  url: string;
  place: Place;
  put: (next: Place | "window") => void;
}

/**
 * The sheet of an issue or an exercise, and where it is looked at; null where there is none. Page
 * shows it in a window of its own.
 */
export function usePlacedSheet(of: string | null, page: string): PlacedSheet | null {
  const [place, setPlace] = useState<Place>(
    of !== null && window.innerWidth >= 1100 ? "beside" : "away",
  );
  if (of === null) return null;
  const put = (next: Place | "window") => {
    if (next === "window") window.open(page, page.replaceAll("/", "-"), "width=1000,height=720");
    else setPlace(next);
  };
  return { url: `/api/${of}/sheet`, place, put };
}

export function SheetPlaceSelect({ sheet }: { sheet: PlacedSheet }) {
  return (
    <select
      className="select select-xs w-28"
      aria-label="Sheet"
      value={sheet.place}
      onChange={(e) => sheet.put(e.target.value as Place | "window")}
    >
      <option value="away">no sheet</option>
      <option value="beside">sheet beside</option>
      <option value="over">sheet over</option>
      <option value="window">sheet in a window</option>
    </select>
  );
}

/** The sheet on the left of what is made after it. */
export function SheetAtTheSide({
  sheet,
  children,
}: {
  sheet: PlacedSheet | null;
  children: ReactNode;
}) {
  if (sheet?.place !== "beside") return null;
  return (
    <section className="w-[28%] min-w-60 border-r border-base-300" aria-label="Sheet">
      {children}
    </section>
  );
}

/** The sheet over what is made after it. */
export function SheetOver({ sheet, children }: { sheet: PlacedSheet | null; children: ReactNode }) {
  if (sheet?.place !== "over") return null;
  return (
    <section
      className={cx(
        "absolute top-10 left-4 z-20 h-[62%] w-[58%] min-w-72 resize",
        "overflow-hidden border-2 border-neutral bg-base-100 shadow-lg",
      )}
      aria-label="Sheet over the part"
    >
      <button
        type="button"
        className="btn btn-xs absolute top-1 right-1 z-10"
        onClick={() => sheet.put("away")}
      >
        Put away
      </button>
      {children}
    </section>
  );
}
