import { type ReactNode, createContext, useContext, useRef } from "react";
import { cx } from "../app/cx";

const Close = createContext(() => {});

/** A button that opens a list of what can be done; taking an entry closes it. */
export function Menu({
  name,
  wide = false,
  children,
}: {
  name: string;
  wide?: boolean;
  children: ReactNode;
}) {
  const menu = useRef<HTMLDetailsElement>(null);
  return (
    <details ref={menu} className="dropdown dropdown-end">
      <summary className="btn btn-xs">{name}</summary>
      <ul
        className={cx(
          "menu dropdown-content z-30 border border-base-300 bg-base-100 shadow",
          wide ? "w-56" : "w-48",
        )}
      >
        <Close value={() => menu.current?.removeAttribute("open")}>{children}</Close>
      </ul>
    </details>
  );
}

/** An entry of a menu. */
export function Entry({ name, run }: { name: string; run: () => void }) {
  const close = useContext(Close);
  return (
    <li>
      <button
        type="button"
        onClick={() => {
          close();
          run();
        }}
      >
        {name}
      </button>
    </li>
  );
}
