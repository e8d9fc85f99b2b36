import { useCallback, useState } from "react";
import type { Command, Offer } from "./useSheetDraft";
import type { Spot } from "./paper";

interface Picked {
  view: string;
  picks: Spot[];
  reach: number;
}

/**
 * Putting a dimension: one edge is picked or two, what fits them is offered, and the next click
 * puts it down.
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

  /** A click on an edge: the first one, or the second of the same view. */
  const pick = (view: string, at: Spot, reach: number) => {
    const second = picked?.view === view && picked.picks.length === 1;
    const next = { view, picks: second ? [...picked.picks, at] : [at], reach };
    setAsking(true);
    setError(null);
    void ask({ do: "offers", item: `view:${view}`, picks: next.picks, reach })
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
  /** A click beside the part; with no place it stands where there is room beside the view. */
  const putDown = (at?: Spot) => {
    if (!picked || !offer) return;
    act({
      do: "dimension",
      item: `view:${picked.view}`,
      text: offer.id,
      picks: picked.picks,
      reach: picked.reach,
      ...(at && { by: at }),
      on: all && offer.like > 0,
    });
    drop();
  };
  return { picked, offers, offer, take, all, setAll, error, asking, pick, putDown, drop };
}

export type Dimensioning = ReturnType<typeof useDimensioning>;
