import { type KeyboardEvent, useEffectEvent, useLayoutEffect, useRef, useState } from "react";
import type { Spot } from "./core/types";
import type { Prompt } from "./modes";
import { inWords, useReach } from "./useReach";
import type { Sketching } from "./useSketch";

/** How far a size goes before the sketch ends. */
function Reaches({ sk, size, unit }: { sk: Sketching; size: string; unit: string }) {
  const { reach, error } = useReach(sk, size);
  if (error !== null) return null; // a sketch that does not hold has its finding
  return (
    <p className="mt-1 text-xs" role="status">
      {reach ? inWords(reach, unit) : "Finding how far it holds …"}
    </p>
  );
}

/**
 * A field for a value where it belongs: arithmetic, parameters and units; Tab changes what is
 * sized.
 */
export function ValueField({
  sk,
  take,
  unit,
  prompt,
  at,
  word,
  close,
}: {
  sk: Sketching;
  take: () => string | null;
  unit: string;
  prompt: Prompt;
  at: Spot;
  word: string | null;
  close: () => void;
}) {
  const [kind, setKind] = useState(0);
  const [value, setValue] = useState(prompt.value);
  const [tried, setTried] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState(at);
  const now = prompt.kinds[kind];

  const submit = async (text: string) => {
    setTried(true);
    if (await prompt.submit(now?.kind ?? "", text.trim() || now?.value || "")) close();
    else input.current?.select();
  };
  const open = useEffectEvent(() => {
    input.current?.focus();
    if (prompt.preset) input.current?.select();
    // What was typed while the field was opening belongs into it.
    const text = take();
    if (text !== null) {
      setValue(text.replace("\n", ""));
      if (text.endsWith("\n")) void submit(text); // Enter was pressed before the field was there
    }
    const b = box.current;
    const host = b?.offsetParent?.getBoundingClientRect();
    if (b && host)
      setPlace({
        x: Math.max(4, Math.min(at.x - host.left + 12, host.width - b.offsetWidth - 6)),
        y: Math.max(4, Math.min(at.y - host.top + 12, host.height - b.offsetHeight - 6)),
      });
  });
  // What was typed before comes from outside of React: it is taken once, when the field is there,
  // and stands in it before the next key does.
  // eslint-disable-next-line react-hooks/set-state-in-effect
  useLayoutEffect(() => open(), [at, prompt, take]);
  const key = (e: KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === "Enter") void submit(value);
    if (e.key === "Escape") close();
    if (e.key === "Tab" && prompt.kinds.length > 1) {
      e.preventDefault();
      setKind((kind + (e.shiftKey ? prompt.kinds.length - 1 : 1)) % prompt.kinds.length);
    }
  };
  return (
    <div
      ref={box}
      className="absolute z-20 w-64 border-2 border-neutral bg-base-100 p-2 text-sm shadow"
      style={{ left: place.x, top: place.y }}
      role="dialog"
      aria-label={prompt.title}
      onPointerDown={(e) => e.stopPropagation()}
    >
      <label className="flex flex-col gap-1">
        <span className="font-semibold first-letter:uppercase">
          {now ? now.words : prompt.title}
        </span>
        <input
          ref={input}
          className="input input-sm w-full"
          value={value}
          placeholder={now?.value}
          onChange={(e) => setValue(e.target.value)}
          onKeyDown={key}
          spellCheck={false}
          autoComplete="off"
        />
      </label>
      {now?.value && value !== "" && (
        <p className="mt-1 text-xs" data-now={now.value}>
          Now {now.value} {now.kind.startsWith("angle") ? "°" : unit}
        </p>
      )}
      {prompt.kinds.length > 1 && (
        <p className="mt-1 text-xs">Tab: {prompt.kinds[(kind + 1) % prompt.kinds.length]?.words}</p>
      )}
      {prompt.hint && <p className="mt-1 text-xs">{prompt.hint}</p>}
      {prompt.size && <Reaches sk={sk} size={prompt.size} unit={unit} />}
      {tried && word && (
        <p role="alert" className="mt-1 border-l-4 border-error pl-2 text-xs">
          {word}
        </p>
      )}
      <div className="mt-2 flex gap-1">
        <button type="button" className="btn btn-primary btn-xs" onClick={() => void submit(value)}>
          Set
        </button>
        <button type="button" className="btn btn-xs" onClick={close}>
          Cancel
        </button>
      </div>
    </div>
  );
}
