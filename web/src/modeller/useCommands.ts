import { useCallback, useState } from "react";
import { Problem, type Schemas, ask, client } from "../api/client";
import type { Said } from "./Messages";
import { type Doc, type Part, titleOf, withValue } from "./types";

/**
 * Changes of the route that follow rules of the core, and the question before what builds on it
 * goes too.
 */
export function useCommands(p: {
  id: number;
  doc: Doc;
  part: Part | undefined;
  change: (next: Doc, what: string) => void;
  say: (said: Said | null) => void;
}) {
  const { id, doc, part, change, say } = p;
  const [sure, setSure] = useState<{ id: string; text: string } | null>(null);
  const command = useCallback(
    async (c: Schemas["ModelCommand"], what: string) => {
      try {
        const out = await ask(
          client.POST("/models/{id}/edit", {
            params: { path: { id } },
            body: { document: doc, command: c },
          }),
        );
        change(out.document as unknown as Doc, what);
        say({ bad: false, text: out.said });
        return true;
      } catch (e) {
        const p = e instanceof Problem ? e : new Problem("that could not be done", "try again", 0);
        if (c.do === "remove" && !c.along && p.code === "builds-on-it")
          setSure({ id: c.id ?? "", text: p.what });
        else say({ bad: true, text: p.remedy ? `${p.what}; ${p.remedy}` : p.what });
        return false;
      }
    },
    [id, doc, change, say],
  );
  const nameOf = useCallback(
    (s: string) => {
      const step = doc.steps.find((x) => x.id === s);
      return step ? titleOf(step, part) : s;
    },
    [doc.steps, part],
  );
  const remove = useCallback(
    (s: string, along = false) => {
      setSure(null);
      void command({ do: "remove", id: s, along }, `${nameOf(s)} removed`);
    },
    [command, nameOf],
  );
  const move = useCallback(
    (s: string, to: number) => void command({ do: "move", id: s, to }, `${nameOf(s)} moved`),
    [command, nameOf],
  );
  const turn = useCallback(
    (s: string) => {
      const off = !doc.steps.find((x) => x.id === s)?.off;
      change(
        { ...doc, steps: doc.steps.map((x) => (x.id === s ? withValue(x, "off", off) : x)) },
        `${nameOf(s)} turned ${off ? "off" : "on"}`,
      );
    },
    [doc, change, nameOf],
  );
  return { remove, move, turn, sure, keepAll: () => setSure(null) };
}

export type Commands = ReturnType<typeof useCommands>;
