import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { Panel, Trouble, sentence } from "../controls/notices";
import { Table } from "../controls/Table";
import { Field } from "../controls/Field";

type Enrolment = Schemas["Enrolment"];
const words = { new: "new", known: "joins", here: "here already", faulty: "put right" } as const;

/**
 * Adds students to a class by a list; what would come of each line stands beside it before
 * anything is done.
 */
export function Enrol({ id, give }: { id: number; give: (slips: Schemas["Slip"][]) => void }) {
  const { value: list, set, drop } = useKept(`enrol/${id}`, "");
  const send = (save: boolean) =>
    ask(client.POST("/classes/{id}/students", { params: { path: { id } }, body: { list, save } }));
  const preview = useMutation({ mutationFn: () => send(false) });
  const save = useMutation({
    mutationFn: () => send(true),
    onSuccess: (out: Enrolment) => {
      drop("");
      preview.reset();
      if (out.slips.length > 0) give(out.slips);
      void queries.invalidateQueries();
    },
  });
  const look = preview.mutate;
  useEffect(() => {
    if (list.trim() === "") return;
    const t = window.setTimeout(() => look(), 300);
    return () => window.clearTimeout(t);
  }, [list, look]);
  const rows = list.trim() === "" ? [] : (preview.data?.rows ?? []);
  const faulty = rows.filter((r) => r.state === "faulty").length;
  const fresh = rows.filter((r) => r.state === "new").length;
  const joining = rows.filter((r) => r.state === "known").length;
  return (
    <Panel title="Add students">
      <div className="flex flex-col gap-2 p-4">
        <Field
          label={
            "One student a line: the name and the login, separated by a comma, a semicolon " +
            "or a tab; a list from a spreadsheet can be pasted"
          }
          className="text-sm"
        >
          <textarea
            className="textarea w-full font-mono"
            rows={4}
            value={list}
            onChange={(e) => set(e.target.value)}
            placeholder={"Wren Hollowell, wren\nTobias Quay, tobias"}
            spellCheck={false}
          />
        </Field>
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
                  key={r.line}
                  data-row={r.state}
                  className={r.state === "faulty" ? "font-semibold" : ""}
                >
                  <td>{r.line}</td>
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
              disabled={faulty > 0 || fresh + joining === 0 || save.isPending || preview.isPending}
              onClick={() => save.mutate()}
            >
              {save.isPending ? "Making the accounts …" : `Add ${fresh + joining}`}
            </button>
            <span className="text-sm" role="status">
              {sentence(
                faulty > 0
                  ? `${faulty} ${faulty === 1 ? "line is" : "lines are"} to be put right first`
                  : `${fresh} new, ${joining} with an account`,
              )}
            </span>
          </div>
        )}
      </div>
    </Panel>
  );
}
