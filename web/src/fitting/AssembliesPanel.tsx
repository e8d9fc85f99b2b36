import { useEffect, useState } from "react";
import { Link } from "react-router";
import { distance } from "../app/format";
import { fittingScreen } from "../app/pages";
import { FileButton } from "../controls/FileInput";
import { Table } from "../controls/Table";
import { NameAndUnit, type Unit } from "../controls/NameAndUnit";
import { Empty, Loading, Panel, Trouble } from "../controls/notices";
import { warmUp } from "./lives";
import { inText, useAssemblies, useStartAssembly } from "./assemblies";

/** The assemblies of whoever is signed in whose names have something in them, and a new one. */
export function AssembliesPanel({ find }: { find: string }) {
  const q = useAssemblies();
  const like = find.trim().toLowerCase();
  const rows = q.data?.filter((a) => a.name.toLowerCase().includes(like)) ?? [];
  const some = (q.data?.length ?? 0) > 0;
  // One of them is opened soon: what that takes is fetched while the list is read.
  useEffect(() => {
    if (!some) return;
    const soon = window.setTimeout(() => {
      fittingScreen.comeNear();
      warmUp();
    }, 300);
    return () => window.clearTimeout(soon);
  }, [some]);
  return (
    <>
      <Panel title="Assemblies">
        {q.isPending ? (
          <Loading what="your assemblies" />
        ) : !q.data ? (
          <Trouble error={q.error} retry={() => void q.refetch()} />
        ) : q.data.length === 0 ? (
          <Empty>No assembly yet. Start one below, and put your models into it.</Empty>
        ) : rows.length === 0 ? (
          <Empty>No assembly is called that.</Empty>
        ) : (
          <Table size="sm">
            <thead>
              <tr>
                <th>Name</th>
                <th>Saved</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((a) => (
                <tr key={a.id} className="hover:bg-base-200">
                  <td>
                    <Link className="link" to={`/assemblies/${a.id}`}>
                      {a.name}
                    </Link>
                  </td>
                  <td>{distance(a.saved)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
      </Panel>
      <Panel title="A new assembly">
        <StartAssembly />
      </Panel>
    </>
  );
}

function StartAssembly() {
  const [name, setName] = useState("");
  const [unit, setUnit] = useState<Unit>("mm");
  const start = useStartAssembly();
  const take = useStartAssembly();
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        start.mutate({ name, unit });
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
          void f.arrayBuffer().then((b) => take.mutate({ name: f.name, bundle: inText(b) }))
        }
      />
      {start.error && <Trouble error={start.error} />}
    </form>
  );
}
