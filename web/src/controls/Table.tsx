import type { ReactNode } from "react";
import { cx } from "../app/cx";

/** A table as all of ours look; pinned keeps its head in sight while its rows are scrolled. */
export function Table({
  label,
  size = "xs",
  pinned = false,
  children,
}: {
  label?: string;
  size?: "xs" | "sm";
  pinned?: boolean;
  children: ReactNode;
}) {
  return (
    <table
      className={cx("table", size === "xs" ? "table-xs" : "table-sm", pinned && "table-pin-rows")}
      aria-label={label}
    >
      {children}
    </table>
  );
}
