import type { ComponentProps, ReactNode } from "react";
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

/** A row that is chosen by a click. */
export function ChosenRow({ chosen, ...row }: { chosen: boolean } & ComponentProps<"tr">) {
  return (
    <tr className={cx("cursor-pointer hover:bg-base-200", chosen && "bg-base-300")} {...row} />
  );
}
