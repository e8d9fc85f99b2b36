import { type ReactNode, useEffect, useRef } from "react";
import { cx } from "../app/cx";

/**
 * A modal dialog: it takes the focus and keeps it, Esc closes it, and the focus goes back to where
 * it was.
 */
export function Dialog({
  label,
  close,
  wide = false,
  children,
}: {
  label: string;
  close: () => void;
  wide?: boolean;
  children: ReactNode;
}) {
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const d = ref.current;
    const before = document.activeElement;
    if (d && !d.open) d.showModal();
    return () => {
      d?.close();
      if (before instanceof HTMLElement || before instanceof SVGElement) before.focus();
    };
  }, []);
  return (
    <dialog
      ref={ref}
      aria-label={label}
      className={cx(
        "m-auto max-h-[90vh] max-w-[95vw] overflow-y-auto border-2 border-neutral",
        "bg-base-100 p-4 text-base-content backdrop:bg-neutral/30",
        wide ? "w-[36rem]" : "w-[28rem]",
      )}
      onCancel={(e) => {
        e.preventDefault();
        close();
      }}
      onKeyDown={(e) => e.stopPropagation()}
      onPointerDown={(e) => e.target === ref.current && close()}
    >
      {children}
    </dialog>
  );
}
