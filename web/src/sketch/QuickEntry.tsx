import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import { cx } from "../app/cx";

/** Something that can be done, by its name. */
export interface Entry {
  name: string;
  key?: string;
  note?: string;
  run: () => void;
}

/** One field in which everything can be typed by its name. */
export function QuickEntry({ entries, close }: { entries: Entry[]; close: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.focus(), []);
  const found = useMemo(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const score = (e: Entry) => {
      const name = e.name.toLowerCase();
      if (!words.every((w) => name.includes(w))) return -1;
      if (name === text.trim().toLowerCase()) return 2;
      return words.length && name.startsWith(words[0] ?? "") ? 1 : 0;
    };
    return entries
      .map((e) => ({ e, s: score(e) }))
      .filter((x) => x.s >= 0)
      .sort((a, b) => b.s - a.s)
      .map((x) => x.e)
      .slice(0, 9);
  }, [entries, text]);
  const pick = (e: Entry | undefined) => {
    if (!e) return;
    close();
    e.run();
  };
  const key = (e: KeyboardEvent) => {
    e.stopPropagation();
    const moves: Record<string, () => void> = {
      Escape: close,
      Enter: () => pick(found[at]),
      ArrowDown: () => setAt(Math.min(at + 1, found.length - 1)),
      ArrowUp: () => setAt(Math.max(at - 1, 0)),
    };
    const act = moves[e.key];
    if (!act) return;
    e.preventDefault();
    act();
  };
  return (
    <div
      className={cx(
        "absolute top-10 left-1/2 z-30 w-[28rem] -translate-x-1/2 border-2",
        "border-neutral bg-base-100 shadow-lg",
      )}
      role="dialog"
      aria-label="Quick entry"
    >
      <input
        ref={input}
        className="input w-full rounded-none border-0 border-b border-base-300 focus:outline-none"
        placeholder="What do you want to do?"
        aria-label="What do you want to do?"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={key}
        onBlur={() => window.setTimeout(close, 150)}
        spellCheck={false}
      />
      <ul role="listbox" aria-label="What can be done">
        {found.map((e, i) => (
          <li
            key={e.name}
            role="option"
            aria-selected={i === at}
            className={cx("flex cursor-pointer gap-2 px-3 py-1 text-sm", i === at && "bg-base-300")}
            onPointerDown={(ev) => {
              ev.preventDefault();
              pick(e);
            }}
            onPointerEnter={() => setAt(i)}
          >
            <span className="mr-auto">
              {e.name}
              {e.note && <span className="opacity-80">, {e.note}</span>}
            </span>
            {e.key && <kbd className="kbd kbd-xs">{e.key}</kbd>}
          </li>
        ))}
        {found.length === 0 && <li className="px-3 py-2 text-sm">Nothing here is called that.</li>}
      </ul>
    </div>
  );
}
