import { type FormEvent, useState } from "react";
import { NameAndUnit, type Unit } from "../controls/NameAndUnit";
import { Trouble } from "../controls/notices";
import { useStartModel } from "./models";

/** Starts a model of a name and a unit. */
export function StartModel({ name: first, issueId }: { name: string; issueId?: number }) {
  const [name, setName] = useState(first);
  const [unit, setUnit] = useState<Unit>("mm");
  const start = useStartModel();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    start.mutate({ name, unit, issueId });
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2 px-4 py-3 text-sm">
      <NameAndUnit label="Name of the part" {...{ name, setName, unit, setUnit }} />
      <button type="submit" className="btn btn-primary btn-sm" disabled={start.isPending}>
        {start.isPending ? "Starting …" : "Start a model"}
      </button>
      {start.error && <Trouble error={start.error} />}
    </form>
  );
}
