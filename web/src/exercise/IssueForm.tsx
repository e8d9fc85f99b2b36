import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { type Exercise as Data, type Schemas, Problem, ask, client, queries } from "../api/client";
import { inZone, localTime } from "../app/format";
import { Dialog } from "../controls/Dialog";
import { Field, Tick } from "../controls/Field";
import { Empty, Loading, Trouble } from "../controls/notices";
import { SheetFindings, openIn } from "./SheetAudit";

type Audit = Schemas["SheetAudit"];

function nextWeek() {
  const d = new Date(Date.now() + 7 * 86400000);
  d.setHours(17, 0, 0, 0);
  return localTime(d);
}

const ways = {
  "with the return": "with the return",
  "at once": "at once",
  practice: "at once, for practice: nothing is marked",
} as const;
type Way = keyof typeof ways;

interface Order {
  classId: number;
  opens: string;
  due: string;
  attempts: number;
  way: Way;
  /** Whom it is for; without anybody for the whole class. */
  students: number[];
  groups: string[];
  /** It is for some alone, who are still to be chosen where there are none. */
  some: boolean;
  /** Every student gets sizes of the own. */
  personal: boolean;
}

/** What an exercise is issued with; it is issued after a look at all of it together. */
export function IssueForm({ exercise, audit }: { exercise: Data; audit: Audit | undefined }) {
  const [order, setOrder] = useState<Order>(() => ({
    classId: exercise.classes[0]?.id ?? 0,
    opens: "",
    due: nextWeek(),
    attempts: 3,
    way: "with the return",
    students: [],
    groups: [],
    some: false,
    personal: (exercise.possible ?? 0) > 0,
  }));
  const [looking, look] = useState(false);
  const [issued, setIssued] = useState("");
  const put = (more: Partial<Order>) => {
    setIssued("");
    setOrder({ ...order, ...more });
  };
  if (exercise.classes.length === 0)
    return <Empty>You teach no class that it could be issued to.</Empty>;
  const unchosen = order.some && order.students.length + order.groups.length === 0;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    look(true);
  };
  return (
    <form onSubmit={submit} className="flex flex-col gap-3 p-4 text-sm">
      <Field label="Class">
        <select
          className="select select-sm w-full"
          value={order.classId}
          onChange={(e) => put({ classId: Number(e.target.value), ...nobody })}
        >
          {exercise.classes.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name} {c.year}
            </option>
          ))}
        </select>
      </Field>
      <Field label="Due">
        <input
          type="datetime-local"
          required
          className="input input-sm w-full"
          value={order.due}
          onChange={(e) => put({ due: e.target.value })}
        />
      </Field>
      <Field label="Seen by students from (empty: now)">
        <input
          type="datetime-local"
          className="input input-sm w-full"
          value={order.opens}
          onChange={(e) => put({ opens: e.target.value })}
        />
      </Field>
      <Field label="Attempts">
        <input
          type="number"
          min={1}
          max={50}
          required
          className="input input-sm w-full"
          value={order.attempts}
          onChange={(e) => put({ attempts: Number(e.target.value) })}
        />
      </Field>
      <fieldset className="flex flex-col gap-1">
        <legend className="mb-1">Students see the check</legend>
        {(Object.keys(ways) as Way[]).map((w) => (
          <label key={w} className="flex items-center gap-2">
            <input
              type="radio"
              name="results"
              className="radio radio-xs"
              checked={order.way === w}
              onChange={() => put({ way: w })}
            />
            {ways[w]}
          </label>
        ))}
      </fieldset>
      <Who classId={order.classId} order={order} choose={put} />
      {exercise.possible && (
        <Tick
          label={`Personal sizes: a sheet of their own for each (${exercise.possible} possible)`}
          on={order.personal}
          set={(personal) => put({ personal })}
        />
      )}
      {issued && <p role="status">Issued to {issued}.</p>}
      {unchosen && <p>Choose the groups or students whom it is for.</p>}
      <button type="submit" className="btn btn-primary btn-sm" disabled={unchosen}>
        Issue …
      </button>
      {looking && (
        <Look
          exercise={exercise}
          audit={audit}
          order={order}
          close={() => look(false)}
          done={(name) => {
            setIssued(name);
            look(false);
          }}
        />
      )}
    </form>
  );
}

type Chosen = Pick<Order, "students" | "groups" | "some">;

const nobody = { students: [], groups: [] };

const turned = <T,>(list: T[], one: T, on: boolean) =>
  on ? [...list, one] : list.filter((x) => x !== one);

/** In words whom an exercise is for. */
function forWhom({ groups, students }: Order) {
  const parts = groups.map((g) => `group ${g}`);
  if (students.length > 0)
    parts.push(students.length === 1 ? "one student" : `${students.length} students`);
  return parts.length > 0 ? parts.join(", ") : "the whole class";
}

/** Whom it is for: the whole class, or some of its groups and students. */
function Who({
  classId,
  order,
  choose,
}: {
  classId: number;
  order: Chosen;
  choose: (c: Chosen) => void;
}) {
  const { some } = order;
  const q = useQuery({
    queryKey: ["class", classId],
    enabled: some,
    queryFn: () => ask(client.GET("/classes/{id}", { params: { path: { id: classId } } })),
  });
  return (
    <div className="flex flex-col gap-1">
      <Tick
        label="For some groups or students only"
        on={some}
        set={(on) => choose({ ...nobody, some: on })}
      />
      {some && q.isPending && <Loading what="the students" />}
      {some && q.error && <Trouble error={q.error} retry={() => void q.refetch()} />}
      {some && q.data && (
        <div
          className="flex max-h-40 flex-col gap-1 overflow-auto border border-base-300 p-2"
          role="group"
          aria-label="Students whom it is for"
        >
          {q.data.groups.map((g) => (
            <Tick
              key={g.name}
              label={`Group ${g.name} (${g.students.length})`}
              on={order.groups.includes(g.name)}
              set={(on) => choose({ ...order, groups: turned(order.groups, g.name, on) })}
            />
          ))}
          {q.data.students.map((s) => (
            <Tick
              key={s.id}
              label={s.name}
              on={order.students.includes(s.id)}
              set={(on) => choose({ ...order, students: turned(order.students, s.id, on) })}
            />
          ))}
        </div>
      )}
    </div>
  );
}

/** All of it together before it is issued: the sheet as students will see it, and the terms. */
function Look({
  exercise,
  audit,
  order,
  close,
  done,
}: {
  exercise: Data;
  audit: Audit | undefined;
  order: Order;
  close: () => void;
  done: (className: string) => void;
}) {
  const open = audit ? openIn(audit) : [];
  const [knowing, setKnowing] = useState(false);
  const decided = open.length === 0 || knowing;
  const to = exercise.classes.find((c) => c.id === order.classId);
  const stop = useRef<AbortController>(undefined);
  useEffect(() => () => stop.current?.abort(), []);
  const issue = useMutation({
    mutationFn: (again: boolean) =>
      ask(
        client.POST("/exercises/{id}/issues", {
          params: { path: { id: exercise.id } },
          signal: (stop.current = new AbortController()).signal,
          body: {
            classId: order.classId,
            due: new Date(order.due).toISOString(),
            ...(order.opens && { opens: new Date(order.opens).toISOString() }),
            attempts: order.attempts,
            results: order.way === "practice" ? "at once" : order.way,
            practice: order.way === "practice",
            students: order.students,
            groups: order.groups,
            personal: order.personal,
            again,
            knowing: open.length > 0 && decided,
          },
        }),
      ),
    onSuccess: (made) => {
      void queries.invalidateQueries();
      done(made.className);
    },
  });
  const twice = issue.error instanceof Problem && issue.error.code === "twice";
  const zone = to?.zone ?? "UTC";
  const drawing = useQuery({
    queryKey: ["drawing", exercise.id],
    enabled: issue.isPending && order.personal,
    refetchInterval: 500,
    queryFn: () =>
      ask(client.GET("/exercises/{id}/issues", { params: { path: { id: exercise.id } } })),
  });
  return (
    <Dialog label="Issue it?" wide close={close}>
      <div className="flex flex-col gap-3 text-sm">
        <h2>
          {exercise.title}, version {exercise.version}
        </h2>
        {/* As high before it is there as afterwards, so that no button moves under the hand. */}
        <div
          className="h-72 shrink-0 overflow-auto border border-base-300 bg-white"
          tabIndex={0}
          role="group"
          aria-label="The sheet"
        >
          <img
            className={exercise.kind === "assembly" ? "w-full" : "h-full w-full object-contain"}
            alt="The sheet as students will see it"
            src={`/api/exercises/${exercise.id}/sheet?version=${exercise.version}&format=svg`}
          />
        </div>
        <dl className="grid grid-cols-[7rem_1fr] gap-x-3 gap-y-1">
          <dt>To</dt>
          <dd>
            {to?.name} {to?.year}
            {`, ${forWhom(order)}`}
          </dd>
          <dt>Seen from</dt>
          <dd>{order.opens ? inZone(order.opens, zone) : "now"}</dd>
          <dt>Due</dt>
          <dd>{inZone(order.due, zone)}</dd>
          <dt>Attempts</dt>
          <dd>{order.attempts}</dd>
          {exercise.possible && (
            <>
              <dt>Sizes</dt>
              <dd>{order.personal ? "of their own for every student" : "the same for all"}</dd>
            </>
          )}
          <dt>The check is seen</dt>
          <dd>{ways[order.way]}</dd>
          <dt>The sheet</dt>
          <dd className="min-h-10">{auditState(audit, open.length, exercise.kind)}</dd>
        </dl>
        {audit && open.length > 0 && (
          <div
            className="border border-base-300"
            role="group"
            aria-label="What the sheet leaves open"
          >
            <p className="px-4 pt-2">
              What is missing is kept with the issue, and nobody is marked on it. What contradicts
              is checked as the sheet states it.
            </p>
            <div className="max-h-48 overflow-auto">
              <SheetFindings brief audit={{ ...audit, findings: open }} />
            </div>
            <div className="px-4 pb-2">
              <Tick label="issue it all the same" on={decided} set={setKnowing} />
            </div>
          </div>
        )}
        {issue.error && <Trouble error={issue.error} />}
        {issue.isPending && order.personal && (
          <p role="status" className="flex items-center gap-2">
            <progress
              className="progress w-32"
              aria-label="Sheets drawn"
              value={drawing.data?.done ?? 0}
              max={1}
            />
            {drawing.data?.stage || "drawing sizes"}
          </p>
        )}
        <div className="flex flex-wrap gap-2">
          {twice ? (
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={issue.isPending}
              onClick={() => issue.mutate(true)}
            >
              Issue it once more on purpose
            </button>
          ) : (
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={issue.isPending || !decided}
              onClick={() => issue.mutate(false)}
            >
              {issue.isPending ? "Issuing …" : "Issue it"}
            </button>
          )}
          <button type="button" className="btn btn-sm" onClick={close}>
            {issue.isPending && order.personal ? "Stop" : "Not now"}
          </button>
        </div>
      </div>
    </Dialog>
  );
}

function auditState(audit: Audit | undefined, open: number, kind: Data["kind"]) {
  const what = kind === "part" ? "the part" : "the assembly";
  if (!audit) return "is still being audited; it is issued only if it leaves nothing open";
  if (open > 0) return `does not determine ${what}, or contradicts it`;
  return `determines ${what}`;
}
