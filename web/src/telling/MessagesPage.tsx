import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import { inZone, when } from "../app/format";
import { useTitle } from "../app/place";
import { Empty, Loading, Panel, Trouble } from "../controls/notices";
import { useMessages } from "./messages";

type Message = Schemas["Message"];

/** How long what is new stays marked as new on the page, in milliseconds. */
const seen = 1500;

/** What one was told, the newest first. What has been on the page for a moment is read. */
export function MessagesPage() {
  useTitle("Messages");
  const q = useMessages();
  const newest = q.data?.list.find((m) => !m.read)?.id ?? 0;
  const { mutate } = useMutation({
    mutationFn: (until: number) => ask(client.PUT("/messages", { body: { until } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["messages"] }),
  });
  useEffect(() => {
    if (newest === 0) return;
    const timer = setTimeout(() => mutate(newest), seen);
    return () => clearTimeout(timer);
  }, [newest, mutate]);
  return (
    <div className="mx-auto max-w-3xl p-4">
      <div className="mb-3 flex items-baseline gap-3">
        <h1 className="mr-auto">Messages</h1>
        <Link className="link text-sm" to="/telling">
          Mail and calendar
        </Link>
      </div>
      <Panel title="What you were told">
        {q.isPending && <Loading what="your messages" />}
        {q.error && <Trouble error={q.error} retry={() => void q.refetch()} />}
        {q.data?.list.length === 0 && (
          <Empty>
            Nothing yet. You are told here when an exercise is issued to you, is due within a day,
            is returned, or when its sheet is changed.
          </Empty>
        )}
        <ul>
          {q.data?.list.map((m) => (
            <One key={m.id} m={m} />
          ))}
        </ul>
      </Panel>
    </div>
  );
}

const row = "flex flex-wrap items-baseline gap-x-3 border-b border-base-300 px-4 py-2 text-sm";

function One({ m }: { m: Message }) {
  const to = m.attemptId ? `/attempts/${m.attemptId}` : `/issues/${m.issueId}`;
  return (
    <li className={row}>
      <span className="mr-auto">
        {!m.read && <strong className="mr-2">new</strong>}
        <Link className="link" to={to}>
          {m.says}
        </Link>
        {m.kind === "due" && `: ${inZone(m.at, m.zone ?? "UTC")}`}
      </span>
      <span>
        {m.className}, {when(m.told)}
      </span>
      {m.text && <p className="basis-full">{m.text}</p>}
    </li>
  );
}
