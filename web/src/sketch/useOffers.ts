import { useEffect, useMemo, useState } from "react";
import { useChanged } from "../app/useChanged";
import type { Offer } from "./core/types";
import type { Sketching } from "./useSketch";

/** What can be put on what is chosen, and what that is called; ready once the core has said it. */
export function useOffers({ engine, frame, chosen }: Sketching) {
  const [offers, setOffers] = useState<Offer[]>([]);
  const [ready, setReady] = useState(false);
  const [called, setCalled] = useState<string[]>([]);
  const entities = useMemo(
    () => chosen.filter((id) => !frame?.constraints.some((k) => k.id === id)),
    [chosen, frame],
  );
  if (useChanged(engine, entities, frame?.revision)) {
    setReady(false);
    setCalled([]);
    if (!engine || entities.length === 0) setOffers([]);
  }
  useEffect(() => {
    if (!engine || entities.length === 0) return;
    let current = true;
    const put = (o: Offer[], names: string[]) => {
      if (!current) return;
      setCalled(names);
      setOffers(o);
      setReady(true);
    };
    Promise.all([
      engine.call<Offer[]>("offers", { ids: entities }),
      engine.call<string[]>("called", { ids: entities }),
    ]).then(
      ([o, names]) => put(o, names),
      () => put([], []),
    );
    return () => {
      current = false;
    };
  }, [engine, entities, frame?.revision]);
  return { entities, offers, ready, called };
}

export type Offered = ReturnType<typeof useOffers>;
