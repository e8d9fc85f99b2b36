import { type RefObject, useCallback, useEffect, useEffectEvent, useRef, useState } from "react";
import type { Offer, Spot } from "./core/types";
import type { Prompt } from "./modes";
import type { Offered } from "./useOffers";
import type { Sketching } from "./useSketch";

/**
 * The field for a value, and what is typed. What is typed goes into the field that opens; one that
 * has no field yet waits for a choice.
 */
export function usePrompt(sk: Sketching, offered: Offered, anchor: RefObject<Spot>) {
  const { frame, choose, act, say, lists } = sk;
  const { entities, offers, ready } = offered;
  const [prompt, setPrompt] = useState<{ prompt: Prompt; at: Spot } | null>(null);
  const typed = useRef<string | null>(null);
  const [waiting, setWaiting] = useState<string | null>(null);

  const ask = useCallback(
    (p: Prompt, at?: Spot) => {
      if (p.value !== "" && !p.preset) typed.current = p.value;
      setPrompt({ prompt: p, at: at ?? anchor.current });
    },
    [anchor],
  );
  const takeTyped = useCallback(() => {
    const text = typed.current;
    typed.current = null;
    return text;
  }, []);
  const typeMore = useCallback((text: string) => {
    typed.current = text;
    setWaiting((w) => (w === null ? null : text));
  }, []);
  const dropTyped = useCallback(() => {
    typed.current = null;
    setWaiting(null);
    setPrompt(null);
  }, []);
  const close = useCallback(() => {
    typed.current = null;
    setPrompt(null);
    say(null);
  }, [say]);

  const openSize = useCallback(
    (text: string, offers: Offer[]) => {
      const sizes = offers.filter((o) => o.size);
      if (sizes.length === 0) {
        typed.current = null;
        setWaiting(text === "" ? null : text);
        say({ bad: false, text: "no size goes on these together" });
        return;
      }
      setWaiting(null);
      ask({
        title: "Size",
        value: text,
        kinds: sizes.map((o) => ({ kind: o.kind, words: o.words, value: o.value ?? "" })),
        hint: "Arithmetic, parameters and units: 120 - 15, reach/2, 5/16 in",
        submit: (kind, value) => act({ do: "size", kind, ids: entities, value }),
      });
    },
    [ask, act, entities, say],
  );
  const askSize = useCallback(
    (first: string) => {
      if (entities.length > 0 && ready) {
        openSize(typed.current ?? first, offers);
        return;
      }
      if (first === "") return;
      typed.current = first;
      setWaiting(first);
    },
    [offers, ready, entities, openSize],
  );
  // What was typed before the choice, or before it was known what goes on it, waits for it. The
  // core may answer before the key, between the key and its picture, or after both.
  const askWaiting = useEffectEvent(() => {
    if (waiting !== null && ready && entities.length > 0 && offers.some((o) => o.size) && !prompt)
      openSize(typed.current ?? waiting, offers);
  });
  useEffect(() => askWaiting(), [waiting, ready, offers, entities, prompt]);

  /** Opens the field of a size that is there. */
  const edit = useCallback(
    (id: string, at?: Spot, first?: string) => {
      const s = frame?.sizes.find((z) => z.id === id);
      if (!s) return;
      choose([id]);
      ask(
        {
          title: s.kind.replaceAll("-", " "),
          kinds: [],
          value: first ?? s.formula,
          preset: first === undefined,
          hint: s.driven ? "It is measured now; a value makes it hold." : undefined,
          size: s.driven ? undefined : id,
          submit: (_, value) => act({ do: "set", id, value }),
        },
        at,
      );
    },
    [frame, choose, ask, act],
  );
  /** Asks for the value of an action on what is chosen. */
  const askAction = useCallback(
    (doing: string, title: string, asks: string) => {
      if (entities.length === 0) {
        const needs = lists?.actions.find((a) => a.do === doing)?.needs ?? "what it is about";
        say({ bad: false, text: `choose first: ${needs}` });
        return;
      }
      const one = doing === "round" || doing === "bevel";
      ask({
        title,
        kinds: [],
        value: "",
        hint: `Give: ${asks}. Separate several values by semicolons.`,
        submit: (_, value) =>
          act(one ? { do: doing, id: entities[0], value } : { do: doing, ids: entities, value }),
      });
    },
    [entities, ask, act, say, lists],
  );
  return {
    prompt,
    waiting,
    typed,
    ask,
    askSize,
    askAction,
    edit,
    takeTyped,
    typeMore,
    dropTyped,
    close,
  };
}

export type Prompting = ReturnType<typeof usePrompt>;
