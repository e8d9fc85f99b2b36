import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { type Schemas, ask, client } from "../api/client";
import { useKept } from "../app/keep";
import { usePlainKeys } from "../app/usePlainKeys";
import { Trouble } from "../controls/notices";
import { useClassView } from "./useClassView";

type Row = Schemas["ClassAttempt"];

const filters = {
  open: "all to return",
  needs: "what needs a person",
  right: "everything in",
  wrong: "something not in",
  late: "late",
} as const;
type Filter = keyof typeof filters;

const passes: Record<Filter, (a: Row) => boolean> = {
  open: () => true,
  needs: (a) => a.needs,
  right: (a) => a.row.in === a.row.of,
  wrong: (a) => a.row.in !== a.row.of,
  late: (a) => a.row.late,
};

/** What of the queue at an exercise somebody goes through, and what was skipped. */
interface Queue {
  filter: Filter;
  skipped: number[];
}

/**
 * Steps through what is to be returned of a class: . the next, , the one before, s skips one to the
 * end. What needs a person comes first.
 */
export function Stepper({ issue, attempt }: { issue: number; attempt: number }) {
  const go = useNavigate();
  const q = useClassView(issue);
  const { value: queue, set } = useKept<Queue>(`queue/${issue}`, { filter: "open", skipped: [] });
  const all = q.data?.attempts ?? [];
  const left = all.filter((a) => a.row.state === "checked");
  const last = (a: Row) => (queue.skipped.includes(a.row.id) ? 2 : a.needs ? 0 : 1);
  const order = all
    .filter((a) => a.row.id === attempt || (a.row.state === "checked" && passes[queue.filter](a)))
    .sort((a, b) => last(a) - last(b));
  const at = order.findIndex((a) => a.row.id === attempt);
  const next = order.length > 1 ? order[(at + 1) % order.length]?.row.id : undefined;
  const before = order.length > 1 ? order[(at <= 0 ? order.length : at) - 1]?.row.id : undefined;
  const to = (id: number | undefined) => id !== undefined && void go(`/attempts/${id}`);
  const skip = () => {
    set({ ...queue, skipped: [...queue.skipped.filter((id) => id !== attempt), attempt] });
    to(next);
  };
  usePlainKeys((key) => {
    if (key === ".") to(next);
    if (key === ",") to(before);
    if (key === "s" && next !== undefined) skip();
  });
  if (q.isError) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  if (!q.data) return null;
  return (
    <span
      className="flex flex-wrap items-center gap-1 text-sm"
      role="group"
      aria-label="Stepping through the class"
    >
      <button
        type="button"
        className="btn btn-xs"
        disabled={before === undefined}
        aria-label="Open attempt before"
        onClick={() => to(before)}
      >
        <kbd className="kbd kbd-xs">,</kbd> before
      </button>
      <button
        type="button"
        className="btn btn-xs"
        disabled={next === undefined}
        aria-label="Next open attempt"
        onClick={() => to(next)}
      >
        next open <kbd className="kbd kbd-xs">.</kbd>
      </button>
      <button type="button" className="btn btn-xs" disabled={next === undefined} onClick={skip}>
        skip <kbd className="kbd kbd-xs">s</kbd>
      </button>
      <select
        className="select select-xs w-36"
        aria-label="What to go through"
        value={queue.filter}
        onChange={(e) => set({ ...queue, filter: e.target.value as Filter })}
      >
        {Object.entries(filters).map(([f, label]) => (
          <option key={f} value={f}>
            {label} ({left.filter(passes[f as Filter]).length})
          </option>
        ))}
      </select>
      <select
        className="select select-xs w-36"
        aria-label="Jump to a student"
        value={attempt}
        onChange={(e) => to(Number(e.target.value))}
      >
        {!all.some((a) => a.row.id === attempt) && <option value={attempt}>an earlier one</option>}
        {all.map((a) => (
          <option key={a.row.id} value={a.row.id}>
            {a.row.student}
            {a.row.state === "checked" ? "" : `, ${a.row.state}`}
          </option>
        ))}
      </select>
      <Link className="link" to={`/issues/${issue}/class`}>
        {left.length === 0 ? "nothing left to return" : `${left.length} to return`}
      </Link>
      {left.length === 0 && <NextExercise issue={issue} />}
    </span>
  );
}

/** Goes on with the next exercise of which something waits. */
function NextExercise({ issue }: { issue: number }) {
  const q = useQuery({ queryKey: ["desk"], queryFn: () => ask(client.GET("/desk")) });
  const next = q.data?.waiting.find((w) => w.issueId !== issue);
  if (!next) return null;
  return (
    <Link className="btn btn-xs btn-primary" to={`/attempts/${next.attemptId}`}>
      Go on with {next.title}: {next.count}
    </Link>
  );
}
