import { useCallback, useState } from "react";
import type { Schemas } from "../api/client";
import type { Command, Offer } from "./useSheetDraft";
import type { Spot } from "./paper";

/** What a dimension is of: lines of a view, or faces of the reference itself. */
interface Picked {
  view?: string;
  picks: Spot[];
  reach: number;
  faces: Schemas["Ref"][];
}

/** What was picked, as the core is told. */
const told = (p: Picked) =>
  p.faces.length > 0
    ? { faces: p.faces }
    : { item: `view:${p.view ?? ""}`, picks: p.picks, reach: p.reach };

/**
 * Putting a dimension: one edge is picked or two, or faces in three dimensions; what fits them is
 * offered, and the next click puts it down.
 */
export function useDimensioning(ask: (c: Command) => Promise<Offer[]>, act: (c: Command) => void) {
  const [picked, setPicked] = useState<Picked | null>(null);
  const [offers, setOffers] = useState<Offer[]>([]);
  const [taken, take] = useState<string | null>(null);
  const [all, setAll] = useState(true);
  const [error, setError] = useState<unknown>(null);
  const [asking, setAsking] = useState(false);

  const drop = useCallback(() => {
    setPicked(null);
    setOffers([]);
    take(null);
    setError(null);
  }, []);
  const offer = offers.find((o) => o.id === taken) ?? offers[0];
  const count = picked ? picked.picks.length + picked.faces.length : 0;

  const askFor = (next: Picked, second: boolean) => {
    setAsking(true);
    setError(null);
    void ask({ do: "offers", ...told(next) })
      .then(
        (list) => {
          setPicked(next);
          setOffers(list);
          take(null);
        },
        (e: unknown) => {
          setError(e);
          // A first edge may need a second one; what does not go with a second goes without it.
          if (!second) {
            setPicked(next);
            setOffers([]);
          }
        },
      )
      .finally(() => setAsking(false));
  };
  /** A click on an edge: the first one, or the second of the same view. */
  const pick = (view: string, at: Spot, reach: number) => {
    const second = picked?.view === view && picked.picks.length === 1;
    askFor({ view, picks: second ? [...picked.picks, at] : [at], reach, faces: [] }, second);
  };
  /** A click on a face of the reference: the first one, or the second. */
  const pickFace = (face: Schemas["Ref"]) => {
    const before = picked?.faces ?? [];
    const second = before.length === 1 && before[0] !== face;
    askFor({ picks: [], reach: 0, faces: second ? [...before, face] : [face] }, second);
  };
  /** A click beside the part; with no place it stands where there is room beside the view. */
  const putDown = (at?: Spot) => {
    if (!picked || !offer) return;
    act({
      do: "dimension",
      text: offer.id,
      ...told(picked),
      ...(at && { by: at }),
      on: all && offer.like > 0,
    });
    drop();
  };
  return {
    picked,
    count,
    offers,
    offer,
    take,
    all,
    setAll,
    error,
    asking,
    pick,
    pickFace,
    putDown,
    drop,
  };
}

export type Dimensioning = ReturnType<typeof useDimensioning>;
