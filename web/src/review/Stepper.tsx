import { Link, useNavigate } from "react-router";
import { Trouble } from "../controls/notices";
import { usePlainKeys } from "../app/usePlainKeys";
import { useClassView } from "./useClassView";

/** Steps through the attempts of a class: . the next that is open, , the one before. */
export function Stepper({ issue, attempt }: { issue: number; attempt: number }) {
  const go = useNavigate();
  const q = useClassView(issue);
  const open = (q.data?.attempts ?? []).filter(
    (a) => a.row.state === "checked" || a.row.id === attempt,
  );
  const at = open.findIndex((a) => a.row.id === attempt);
  const left = (q.data?.attempts ?? []).filter((a) => a.row.state === "checked").length;
  const next = open.length > 1 ? open[(at + 1) % open.length]?.row.id : undefined;
  const before = open.length > 1 ? open[(at <= 0 ? open.length : at) - 1]?.row.id : undefined;
  usePlainKeys((key) => {
    const to = key === "." ? next : key === "," ? before : undefined;
    if (to !== undefined) void go(`/attempts/${to}`);
  });
  if (q.isError) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  if (!q.data) return null;
  return (
    <span className="flex items-center gap-1 text-sm" aria-label="Stepping through the class">
      <button
        type="button"
        className="btn btn-xs"
        disabled={before === undefined}
        aria-label="Open attempt before"
        onClick={() => void go(`/attempts/${before}`)}
      >
        <kbd className="kbd kbd-xs">,</kbd> before
      </button>
      <button
        type="button"
        className="btn btn-xs"
        disabled={next === undefined}
        aria-label="Next open attempt"
        onClick={() => void go(`/attempts/${next}`)}
      >
        next open <kbd className="kbd kbd-xs">.</kbd>
      </button>
      <Link className="link" to={`/issues/${issue}/class`}>
        {left === 0 ? "nothing left to return" : `${left} to return`}
      </Link>
    </span>
  );
}
