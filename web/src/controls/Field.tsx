import type { ReactNode } from "react";
import { cx } from "../app/cx";

/** Something to be filled in, under what it is called. */
export function Field({
  label,
  className,
  children,
}: {
  label: string;
  className?: string;
  children: ReactNode;
}) {
  return (
    <label className={cx("flex flex-col gap-1", className)}>
      {label}
      {children}
    </label>
  );
}

/** Something to be filled in, beside what it is called; those in one column line up. */
export function FieldRow({
  label,
  wide = false,
  children,
}: {
  label: string;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <label className="flex items-center gap-2">
      <span className={wide ? "w-32" : "w-24"}>{label}</span>
      {children}
    </label>
  );
}

/** Something that is so or not. */
export function Tick({
  label,
  on,
  set,
}: {
  label: string;
  on: boolean;
  set: (on: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={on}
        onChange={(e) => set(e.target.checked)}
      />
      {label}
    </label>
  );
}

/** The login of somebody, under what it is asked for. */
export function LoginField({
  label,
  className,
  value,
  set,
}: {
  label: string;
  className?: string;
  value: string;
  set: (login: string) => void;
}) {
  return (
    <Field label={label} className={className}>
      <input
        className="input input-sm w-full"
        required
        maxLength={60}
        autoCapitalize="none"
        spellCheck={false}
        value={value}
        onChange={(e) => set(e.target.value)}
      />
    </Field>
  );
}
