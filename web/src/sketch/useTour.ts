import { useCallback, useState } from "react";
import type { Finding, Spot } from "./core/types";
import type { Turns } from "./modes";
import type { Sketching } from "./useSketch";

/** Going through a sketch: to its findings, its loose places, and one thing after another. */
export function useTour(sk: Sketching, turns: Turns, startWiggle: (id?: string) => void) {
  const { frame, chosen, choose, say } = sk;
  const { put } = turns;
  const [finding, setFinding] = useState<string | null>(null);
  const [goTo, setGoTo] = useState<Spot | null>(null);
  const [looseAt, setLooseAt] = useState(-1);

  const pick = useCallback(
    (f: Finding | null) => {
      setFinding(f?.id ?? null);
      if (f?.at) setGoTo({ ...f.at });
      if (f && !f.at) {
        const p = frame?.points.find((q) => f.entities?.includes(q.id));
        if (p) setGoTo({ x: p.x, y: p.y });
      }
    },
    [frame],
  );
  const nextLoose = useCallback(
    (by: number) => {
      const list = frame?.points.filter((p) => frame.loose.includes(p.id)) ?? [];
      const round = frame?.curves.filter((c) => frame.loose.includes(c.id)) ?? [];
      const all = [...list.map((p) => p.id), ...round.map((c) => c.id)];
      if (all.length === 0) {
        say({ bad: false, text: "nothing is loose" });
        return;
      }
      const i = (looseAt + by + all.length) % all.length;
      setLooseAt(i);
      put({ kind: "choose" });
      const id = all[i] ?? "";
      choose([id]);
      const p = list.find((q) => q.id === id);
      if (p) setGoTo({ x: p.x, y: p.y });
      startWiggle(id);
    },
    [frame, looseAt, choose, startWiggle, say, put],
  );
  const cycle = useCallback(
    (by: number, add: boolean) => {
      const all = [...(frame?.curves ?? []), ...(frame?.points ?? []), ...(frame?.sizes ?? [])].map(
        (e) => e.id,
      );
      if (all.length === 0) return;
      const i = all.indexOf(chosen.at(-1) ?? "");
      const id = all[(i + by + all.length) % all.length] ?? "";
      choose(add ? [...chosen, id] : [id]);
    },
    [frame, chosen, choose],
  );
  const picked = frame?.findings.find((f) => f.id === finding) ?? null;
  return { picked, finding, pick, nextLoose, cycle, goTo };
}
