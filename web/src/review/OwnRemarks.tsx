import { useMutation, useQuery } from "@tanstack/react-query";
import { ask, client, queries } from "../api/client";

/** What somebody has said before of the same finding or its kind, to be taken again. */
export function OwnRemarks({
  issue,
  finding,
  take,
}: {
  issue: number;
  /** Its key; empty for comments on whole attempts. */
  finding: string;
  take: (text: string) => void;
}) {
  const key = ["own-remarks", issue, finding];
  const query = { finding: finding || undefined };
  const q = useQuery({
    queryKey: key,
    queryFn: () =>
      ask(client.GET("/issues/{id}/remarks/own", { params: { path: { id: issue }, query } })),
  });
  const forget = useMutation({
    mutationFn: (text: string) =>
      ask(
        client.PUT("/issues/{id}/remarks/own", {
          params: { path: { id: issue }, query },
          body: { forget: text },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: key }),
  });
  const list = q.data ?? [];
  if (list.length === 0) return null;
  return (
    <ul className="flex flex-col gap-0.5 text-xs" aria-label="What you said before">
      {list.map((r) => (
        <li key={r.text} className="flex items-baseline gap-1">
          <button
            type="button"
            className="link min-w-0 flex-1 truncate text-left"
            title={r.text}
            data-own=""
            onClick={() => take(r.text)}
          >
            {r.text}
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-label={`Forget ${r.text.slice(0, 40)}`}
            title="Offer it no more"
            onClick={() => forget.mutate(r.text)}
          >
            Forget
          </button>
        </li>
      ))}
    </ul>
  );
}
