import { type FormEvent } from "react";
import type { Schemas } from "../api/client";
import { Field } from "../controls/Field";

export type Terms = Schemas["ClassTerms"];

/** The time zones that browsers know, by the IANA's names. */
const zones = Intl.supportedValuesOf("timeZone");
export const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** The school year of today, as it is mostly written: from September to August. */
export function thisYear() {
  const day = new Date();
  const first = day.getMonth() < 8 ? day.getFullYear() - 1 : day.getFullYear();
  return `${first}/${String((first + 1) % 100).padStart(2, "0")}`;
}

/** What a class is called, its school year, and the time zone in which its dates are meant. */
export function ClassTerms({
  value,
  set,
  submit,
  children,
}: {
  value: Terms;
  set: (t: Terms) => void;
  submit: () => void;
  children: React.ReactNode;
}) {
  const send = (e: FormEvent) => {
    e.preventDefault();
    submit();
  };
  return (
    <form onSubmit={send} className="flex flex-wrap items-end gap-2 px-4 py-3 text-sm">
      <Field label="Name of the class" className="min-w-52 flex-1">
        <input
          className="input input-sm w-full"
          required
          maxLength={100}
          value={value.name}
          onChange={(e) => set({ ...value, name: e.target.value })}
        />
      </Field>
      <Field label="School year" className="w-28">
        <input
          className="input input-sm w-full"
          maxLength={20}
          value={value.year}
          onChange={(e) => set({ ...value, year: e.target.value })}
        />
      </Field>
      <Field label="Time zone" className="w-52">
        <select
          className="select select-sm w-full"
          value={value.zone}
          onChange={(e) => set({ ...value, zone: e.target.value })}
        >
          {(zones.includes(value.zone) ? zones : [value.zone, ...zones]).map((z) => (
            <option key={z}>{z}</option>
          ))}
        </select>
      </Field>
      {children}
    </form>
  );
}
