import { Link } from "react-router";
import { distance } from "../app/format";
import { Loading, Trouble } from "../controls/notices";
import { useModels } from "./models";
import { StartModel } from "./StartModel";

/** A student's models for an issue, and starting one. */
export function ModelHere({ issue }: { issue: { id: number; title: string } }) {
  const q = useModels();
  if (q.isPending) return <Loading what="your models" />;
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  const mine = q.data.filter((m) => m.issueId === issue.id);
  return (
    <>
      {mine.length > 0 && (
        <ul className="px-4 pt-3 text-sm">
          {mine.map((m) => (
            <li key={m.id}>
              <Link className="link" to={`/models/${m.id}`}>
                {m.name}
              </Link>
              , saved {distance(m.saved)}
            </li>
          ))}
        </ul>
      )}
      <StartModel name={issue.title} issueId={issue.id} />
    </>
  );
}
