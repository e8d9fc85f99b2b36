import { useState } from "react";
import { FileButton } from "../controls/FileInput";
import { NameAndUnit, type Unit } from "../controls/NameAndUnit";
import { Trouble } from "../controls/notices";
import { inText, useStartAssembly } from "./assemblies";

/** Starts an assembly of a name and a unit, or opens one from a file. */
export function StartAssembly({ name: first = "", issueId }: { name?: string; issueId?: number }) {
  const [name, setName] = useState(first);
  const [unit, setUnit] = useState<Unit>("mm");
  const start = useStartAssembly();
  const take = useStartAssembly();
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        start.mutate({ name, unit, issueId });
      }}
      className="flex flex-wrap items-end gap-2 px-4 py-3 text-sm"
    >
      <NameAndUnit label="Name of the assembly" {...{ name, setName, unit, setUnit }} />
      <button type="submit" className="btn btn-primary btn-sm" disabled={start.isPending}>
        {start.isPending ? "Starting …" : "Start an assembly"}
      </button>
      <FileButton
        className="btn btn-sm"
        name="Open a file …"
        busy="Opening …"
        label="Bundle or STEP file of an assembly"
        accept=".zip,.step,.stp"
        sending={take}
        take={(f) =>
          void f
            .arrayBuffer()
            .then((b) => take.mutate({ name: f.name, bundle: inText(b), issueId }))
        }
      />
      {start.error && <Trouble error={start.error} />}
    </form>
  );
}
