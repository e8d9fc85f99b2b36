import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type IssueDetail, type Schemas, ask, client, queries } from "../api/client";
import { when } from "../app/format";
import { useKept } from "../app/keep";
import { Field } from "../controls/Field";
import { Empty, Panel, Trouble } from "../controls/notices";

type Question = Schemas["Question"];

const again = { onSuccess: () => queries.invalidateQueries() };

/** What students ask at balloons of the sheet; an answer is for all of them. */
export function Questions({ d, chosen }: { d: IssueDetail; chosen: string | null }) {
  const open = d.questions.filter((q) => !q.answer).length;
  return (
    <Panel
      title="Questions"
      side={open > 0 && <span className="text-sm">{open} without an answer</span>}
    >
      {!d.staff && <Asking d={d} chosen={chosen} />}
      {d.questions.length === 0 && d.staff && <Empty>Nobody has asked anything yet.</Empty>}
      <ul className="divide-y divide-base-300 text-sm">
        {d.questions.map((q) => (
          <li key={q.id} className="flex flex-col gap-1 px-4 py-2">
            <p>
              <strong>{q.balloon ? `Balloon ${q.balloon}` : "The sheet"}</strong>
              {q.student ? `, ${q.student}` : q.mine ? ", you" : ""}, {when(q.at)}: {q.text}
            </p>
            {q.answer && (
              <blockquote className="border-l-4 border-primary pl-3 whitespace-pre-wrap">
                {q.answer} <span className="opacity-80">({q.by})</span>
              </blockquote>
            )}
            {d.staff ? (
              <Answer issue={d.issue.id} q={q} />
            ) : (
              !q.answer && <p className="text-xs">No answer yet.</p>
            )}
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function Asking({ d, chosen }: { d: IssueDetail; chosen: string | null }) {
  const { value: text, set, drop } = useKept(`question/${d.issue.id}`, "");
  const at = d.characteristics.find((c) => c.id === chosen);
  const send = useMutation({
    mutationFn: () =>
      ask(
        client.POST("/issues/{id}/questions", {
          params: { path: { id: d.issue.id } },
          body: { text, ...(at && { characteristic: at.id }) },
        }),
      ),
    onSuccess: () => {
      drop("");
      return queries.invalidateQueries();
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    send.mutate();
  };
  return (
    <form onSubmit={submit} className="flex flex-col gap-2 px-4 py-3 text-sm">
      <Field
        label={
          at
            ? `Ask about balloon ${at.balloon}, ${at.label}`
            : "Ask about the sheet; pick a balloon on it to ask about that"
        }
      >
        <textarea
          className="textarea textarea-sm w-full"
          rows={2}
          maxLength={1000}
          value={text}
          onChange={(e) => set(e.target.value)}
        />
      </Field>
      {send.error && <Trouble error={send.error} />}
      <div className="flex items-center gap-2">
        <button
          type="submit"
          className="btn btn-sm"
          disabled={send.isPending || text.trim() === ""}
        >
          Ask
        </button>
        <span className="text-xs">The answer is read by all of the class, without your name.</span>
      </div>
    </form>
  );
}

function Answer({ issue, q }: { issue: number; q: Question }) {
  const [editing, edit] = useState(false);
  const { value: text, set, drop } = useKept(`answer/${q.id}`, q.answer ?? "");
  const send = useMutation({
    mutationFn: () =>
      ask(
        client.PUT("/issues/{id}/questions/{question}", {
          params: { path: { id: issue, question: q.id } },
          body: { answer: text },
        }),
      ),
    onSuccess: () => {
      drop(text);
      edit(false);
      return again.onSuccess();
    },
  });
  if (!editing)
    return (
      <button type="button" className="btn btn-xs self-start" onClick={() => edit(true)}>
        {q.answer ? "Change the answer" : "Answer"}
      </button>
    );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    send.mutate();
  };
  return (
    <form onSubmit={submit} className="flex flex-col gap-1">
      <textarea
        aria-label="Answer"
        className="textarea textarea-sm w-full"
        rows={2}
        maxLength={2000}
        autoFocus
        value={text}
        onChange={(e) => set(e.target.value)}
      />
      {send.error && <Trouble error={send.error} />}
      <div className="flex gap-2">
        <button
          type="submit"
          className="btn btn-primary btn-xs"
          disabled={send.isPending || text.trim() === ""}
        >
          Answer to all
        </button>
        <button type="button" className="btn btn-xs" onClick={() => edit(false)}>
          Cancel
        </button>
      </div>
    </form>
  );
}
