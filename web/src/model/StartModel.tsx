import { type FormEvent, useState } from "react";
import { unitWords } from "../app/format";
import { Trouble } from "../controls/notices";
import { useStartModel } from "./models";
import { Field } from "../controls/Field";

/** Asks for name and unit, since both are noticed late when they are wrong. */
export function StartModel({ name: first, issueId }: { name: string; issueId?: number }) {
  const [name, setName] = useState(first);
  const [unit, setUnit] = useState<keyof typeof unitWords>("mm");
  const start = useStartModel();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    start.mutate({ name, unit, issueId });
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2 px-4 py-3 text-sm">
      <Field label="Name of the part" className="min-w-32 flex-1">
        <input
          className="input input-sm w-full"
          value={name}
          onChange={(e) => setName(e.target.value)}
          required
          maxLength={150}
        />
      </Field>
      <Field label="Unit">
        <select
          className="select select-sm w-32"
          value={unit}
          onChange={(e) => setUnit(e.target.value as keyof typeof unitWords)}
        >
          {Object.entries(unitWords).map(([u, word]) => (
            <option key={u} value={u}>
              {word}
            </option>
          ))}
        </select>
      </Field>
      <button type="submit" className="btn btn-primary btn-sm" disabled={start.isPending}>
        {start.isPending ? "Starting …" : "Start a model"}
      </button>
      {start.error && <Trouble error={start.error} />}
    </form>
  );
}
