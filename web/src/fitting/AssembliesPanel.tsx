import { useEffect } from "react";
import { Link } from "react-router";
import { distance } from "../app/format";
import { fittingScreen } from "../app/pages";
import { Table } from "../controls/Table";
import { Empty, Loading, Panel, Trouble } from "../controls/notices";
import { warmUp } from "./lives";
import { useAssemblies } from "./assemblies";
import { StartAssembly } from "./StartAssembly";

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
