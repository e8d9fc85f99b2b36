import { Link } from "react-router";
import { distance } from "../app/format";
import { Loading, Trouble } from "../controls/notices";
import { useAssemblies } from "../fitting/assemblies";
import { StartAssembly } from "../fitting/StartAssembly";
import { useModels } from "./models";
import { StartModel } from "./StartModel";

interface Issue {
  id: number;
  title: string;
}

interface Row {
  id: number;
  name: string;
  saved: string;
}

/** What was begun for an exercise: models, or assemblies. */
function Begun({ rows, at }: { rows: Row[]; at: "models" | "assemblies" }) {
  if (rows.length === 0) return null;
  return (
    <ul className="px-4 pt-3 text-sm">
      {rows.map((m) => (
        <li key={m.id}>
          <Link className="link" to={`/${at}/${m.id}`}>
            {m.name}
          </Link>
          , saved {distance(m.saved)}
        </li>
      ))}
    </ul>
  );
}

/** A student's models for an issue, and starting one: the part of it, or the parts of the whole. */
export function ModelHere({ issue, parts = false }: { issue: Issue; parts?: boolean }) {
  const q = useModels();
  if (q.isPending) return <Loading what="your models" />;
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  return (
    <>
      <Begun rows={q.data.filter((m) => m.issueId === issue.id)} at="models" />
      <StartModel name={parts ? "" : issue.title} issueId={issue.id} />
    </>
  );
}

/** A student's assemblies for an issue with the models of their parts, and starting them. */
export function AssembleHere({ issue }: { issue: Issue }) {
  const q = useAssemblies();
  if (q.isPending) return <Loading what="your assemblies" />;
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  return (
    <>
      <h3 className="px-4 pt-3 font-semibold">The parts</h3>
      <ModelHere issue={issue} parts />
      <h3 className="border-t border-base-300 px-4 pt-3 font-semibold">The whole</h3>
      <p className="px-4 pt-1 text-sm">
        Put the parts together here, and hand in the whole from there.
      </p>
      <Begun rows={q.data.filter((a) => a.issueId === issue.id)} at="assemblies" />
      <StartAssembly name={issue.title} issueId={issue.id} />
    </>
  );
}
