import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { useOutside } from "../telling/messages";
import { Panel, Trouble, sentence } from "../controls/notices";
import { Table } from "../controls/Table";
import { Field, Tick } from "../controls/Field";
import { FileButton } from "../controls/FileInput";

type Enrolment = Schemas["Enrolment"];
const words = {
  new: "new",
  known: "joins",
  moved: "moves here",
  here: "here already",
  left: "leaves",
  faulty: "put right",
} as const;

/** A file as a request has it. */
async function encoded(f: File) {
  const bytes = new Uint8Array(await f.arrayBuffer());
  return btoa(Array.from(bytes, (b) => String.fromCharCode(b)).join(""));
}

/** What was chosen in place of a list: the zip of a roster, and the class of it. */
interface Chosen {
  name: string;
  /** The roster of the learning platform where there is none. */
  file?: string;
  class?: string;
}

function label(joining: number, leaving: number) {
  if (leaving === 0) return `Add ${joining}`;
  return joining === 0 ? `Take out ${leaving}` : `Add ${joining}, take out ${leaving}`;
}

/**
 * Adds students to a class by a list; what would come of each line stands beside it before
 * anything is done.
 */
export function Enrol({ id, give }: { id: number; give: (slips: Schemas["Slip"][]) => void }) {
  const { value: list, set, drop } = useKept(`enrol/${id}`, "");
  const [chosen, choose] = useState<Chosen | null>(null);
  const [whole, setWhole] = useState(false);
  const outside = useOutside();
  const given = chosen !== null || list.trim() !== "";
  const send = (save: boolean) =>
    ask(
      client.POST("/classes/{id}/students", {
        params: { path: { id } },
        body: {
          ...(chosen
            ? { ...(chosen.file ? { file: chosen.file } : { platform: true }), class: chosen.class }
            : { list }),
          whole,
          save,
        },
      }),
    );
  const read = useMutation({
    mutationFn: async (f: File) => {
      if (!f.name.toLowerCase().endsWith(".zip")) {
        choose(null);
        set(await f.text());
      } else choose({ name: f.name, file: await encoded(f) });
    },
  });
  const preview = useMutation({ mutationFn: () => send(false) });
  const save = useMutation({
    mutationFn: () => send(true),
    onSuccess: (out: Enrolment) => {
      drop("");
      choose(null);
      setWhole(false);
      preview.reset();
      if (out.slips.length > 0) give(out.slips);
      void queries.invalidateQueries();
    },
  });
  const look = preview.mutate;
  useEffect(() => {
    if (!given) return;
    const t = window.setTimeout(() => look(), 300);
    return () => window.clearTimeout(t);
  }, [given, list, chosen, whole, look]);
  const rows = given ? (preview.data?.rows ?? []) : [];
  const classes = given ? (preview.data?.classes ?? []) : [];
  const faulty = rows.filter((r) => r.state === "faulty").length;
  const fresh = rows.filter((r) => r.state === "new").length;
  const joining = rows.filter((r) => r.state === "known" || r.state === "moved").length;
  const leaving = rows.filter((r) => r.state === "left").length;
  return (
    <Panel title="Add students">
      <div className="flex flex-col gap-2 p-4">
        <div className="flex flex-wrap items-center gap-3 text-sm">
          <p className="min-w-60 flex-1">
            Type or paste a list: one student a line, the name and the login, with a comma, a
            semicolon or a tab between. A table whose first line names its columns (name, login,
            mail) can be pasted or chosen as a CSV file, and the roster of a school’s system as a
            zip of OneRoster 1.2 CSV. What would come of every line is shown first.
          </p>
          <FileButton
            accept=".csv,.txt,.zip"
            label="A list of students as CSV, or a roster as a zip"
            className="btn btn-sm"
            name="Choose a file"
            busy="Reading …"
            sending={read}
            take={(f) => read.mutate(f)}
          />
          {outside.data?.platform && (
            <button
              type="button"
              className="btn btn-sm"
              onClick={() => choose({ name: "The roster of the learning platform" })}
            >
              Take it from the platform
            </button>
          )}
        </div>
        {chosen && (
          <p className="flex items-center gap-2 text-sm">
            {chosen.name}
            <button type="button" className="btn btn-xs" onClick={() => choose(null)}>
              Take a list instead
            </button>
          </p>
        )}
        {chosen && classes.length > 0 && (
          <Field label="Which class of the file is it?" className="text-sm">
            <select
              className="select select-sm w-full"
              value=""
              onChange={(e) => choose({ ...chosen, class: e.target.value })}
            >
              <option value="">choose</option>
              {classes.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.title}, {c.students} students
                </option>
              ))}
            </select>
          </Field>
        )}
        {!chosen && (
          <textarea
            aria-label="List of students"
            className="textarea w-full font-mono"
            rows={4}
            value={list}
            onChange={(e) => set(e.target.value)}
            placeholder={"Wren Hollowell, wren\nTobias Quay, tobias"}
            spellCheck={false}
          />
        )}
        {given && (
          <div className="text-sm">
            <Tick
              label="This is the whole class: who is not on the list leaves it"
              on={whole}
              set={setWhole}
            />
          </div>
        )}
        {rows.length > 0 && (
          <Table label="What would come of it">
            <thead>
              <tr>
                <th>Line</th>
                <th>Name</th>
                <th>Login</th>
                <th>What comes of it</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr
                  key={`${r.line} ${r.login}`}
                  data-row={r.state}
                  className={r.state === "faulty" ? "font-semibold" : ""}
                >
                  <td>{r.line || ""}</td>
                  <td>{r.name}</td>
                  <td className="font-mono">{r.login}</td>
                  <td>
                    {words[r.state]}: {r.what}
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
        {preview.error && <Trouble error={preview.error} />}
        {save.error && <Trouble error={save.error} />}
        {rows.length > 0 && (
          <div className="flex flex-wrap items-center gap-3">
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={
                faulty > 0 || fresh + joining + leaving === 0 || save.isPending || preview.isPending
              }
              onClick={() => save.mutate()}
            >
              {save.isPending ? "Making the accounts …" : label(fresh + joining, leaving)}
            </button>
            <span className="text-sm" role="status">
              {sentence(
                faulty > 0
                  ? `${faulty} ${faulty === 1 ? "line is" : "lines are"} to be put right first`
                  : `${fresh} new, ${joining} with an account` +
                      (leaving ? `, ${leaving} leave` : ""),
              )}
            </span>
          </div>
        )}
      </div>
    </Panel>
  );
}
