import { Link } from "react-router";
import { distance } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, Trouble } from "../controls/notices";
import { AssembliesPanel } from "../fitting/AssembliesPanel";
import { useModels } from "./models";
import { StartModel } from "./StartModel";
import { Table } from "../controls/Table";

/** All models of whoever is signed in. */
export function ModelsPage() {
  const q = useModels();
  useTitle("My models");
  if (q.isPending) return <Loading what="your models" />;
  if (!q.data)
    return (
      <div className="p-6">
        <Trouble error={q.error} retry={() => void q.refetch()} />
      </div>
    );
  return (
    <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
      <h1>My models</h1>
      <Panel title="Worked on">
        {q.data.length === 0 ? (
          <Empty>
            No model yet. Start one here, or from an exercise so that its sheet stands beside it.
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
              {q.data.map((m) => (
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
      <AssembliesPanel />
    </div>
  );
}
