import { useState } from "react";
import { Link } from "react-router";
import { distance } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, PageTrouble } from "../controls/notices";
import { AssembliesPanel } from "../fitting/AssembliesPanel";
import { useModels } from "./models";
import { StartModel } from "./StartModel";
import { Table } from "../controls/Table";

/** All models of whoever is signed in. */
export function ModelsPage() {
  const q = useModels();
  useTitle("My models");
  const [find, setFind] = useState("");
  if (q.isPending) return <Loading what="your models" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const rows = q.data.filter((m) => m.name.toLowerCase().includes(find.trim().toLowerCase()));
  return (
    <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">My models</h1>
        <input
          type="search"
          className="input input-sm w-56"
          aria-label="Find a model or an assembly"
          placeholder="name of a model or assembly"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Panel title="Worked on">
        {rows.length === 0 ? (
          <Empty>
            {q.data.length > 0
              ? "No model is called that."
              : "No model yet. Start one here, or from an exercise so that its sheet stands " +
                "beside it."}
          </Empty>
        ) : (
          <Table size="sm">
            <thead>
              <tr>
                <th>Name</th>
                <th>For</th>
                <th>Saved</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((m) => (
                <tr key={m.id} className="hover:bg-base-200">
                  <td>
                    <Link className="link" to={`/models/${m.id}`}>
                      {m.name}
                    </Link>
                  </td>
                  <td>
                    {m.issueId ? (
                      <Link className="link" to={`/issues/${m.issueId}`}>
                        an exercise issued to you
                      </Link>
                    ) : m.exerciseId ? (
                      <Link className="link" to={`/exercises/${m.exerciseId}`}>
                        the reference of an exercise
                      </Link>
                    ) : (
                      "itself"
                    )}
                  </td>
                  <td>{distance(m.saved)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
      </Panel>
      <Panel title="A new model">
        <StartModel name="" />
      </Panel>
      <AssembliesPanel find={find} />
    </div>
  );
}
