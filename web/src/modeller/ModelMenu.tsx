import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { type Me, Problem, type Schemas, ask, client, queries } from "../api/client";
import { Dialog } from "../controls/Dialog";
import { Entry, Menu } from "../controls/Menu";
import { Trouble } from "../controls/notices";
import type { Doc } from "./types";
import { FileInput } from "../controls/FileInput";
import { saveFile } from "../controls/saveFile";
import { HandInHere } from "../issue/HandInHere";
import { teaches } from "../session/session";

interface Props {
  model: Schemas["Model"];
  me: Me;
  doc: Doc;
  settle: () => Promise<boolean>;
  take: (d: Doc, what: string) => void;
  look: () => void;
}

const exports = [
  { format: "ap242", ending: "step", words: "STEP, AP242" },
  { format: "ap214", ending: "step", words: "STEP, AP214" },
  { format: "stl", ending: "stl", words: "STL mesh" },
  { format: "3mf", ending: "3mf", words: "3MF mesh" },
  { format: "json", ending: "json", words: "model document" },
] as const;

/** What is done with the whole model: hand it in, make it the reference, files, remove. */
export function ModelMenu({ model, me, doc, settle, take, look }: Props) {
  const { row } = model;
  const go = useNavigate();
  const input = useRef<HTMLInputElement>(null);
  const [ask_, setAsk] = useState<"hand-in" | "promote" | "remove" | null>(null);
  const [bad, setBad] = useState("");
  const staff = teaches(me);
  const saved = async () => {
    if (!(await settle())) throw Object.assign(new Error("unsaved"));
  };
  const file = async () => {
    await saved();
    return new File([JSON.stringify(doc)], `${row.name}.json`, {
      type: "application/vnd.hammerset.model+json",
    });
  };
  const promote = useMutation({
    mutationFn: async () => {
      await saved();
      return ask(client.POST("/models/{id}/promote", { params: { path: { id: row.id } } }));
    },
    onSuccess: (e) => {
      void queries.invalidateQueries();
      void go(`/exercises/${e.id}`);
    },
  });
  const remove = useMutation({
    mutationFn: () => ask(client.DELETE("/models/{id}", { params: { path: { id: row.id } } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["models"] });
      void go("/models");
    },
  });
  const bring = async (f: File) => {
    setBad("");
    try {
      const d = JSON.parse(await f.text()) as Doc;
      if (d.hammerset !== "model/1") setBad(`${f.name} is not a model document.`);
      else {
        // It is read on the server before it takes the place of what is here.
        await ask(
          client.POST("/models/{id}/edit", {
            params: { path: { id: row.id } },
            body: {
              document: d as unknown as Schemas["ModelDocument"],
              command: { do: "fresh", kind: "sketch" },
            },
          }),
        );
        take(d, `brought in from ${f.name}`);
      }
    } catch (e) {
      setBad(
        e instanceof Problem
          ? `${f.name}: ${e.what}. The model stays as it is.`
          : `${f.name} is not readable as JSON; choose a model document.`,
      );
    }
  };
  const write = useMutation({
    mutationFn: async ({ format, ending }: (typeof exports)[number]) => {
      await saved();
      const data = await ask(
        client.GET("/models/{id}/export", {
          params: { path: { id: row.id }, query: { format } },
          parseAs: "blob",
        }),
      );
      saveFile(data as unknown as Blob, `${row.name}.${ending}`);
    },
  });
  const running = promote.isPending || remove.isPending;
  return (
    <>
      <Menu name={write.isPending ? "Writing …" : "Model"} wide>
        {row.issueId && me.roles.includes("student") && (
          <Entry name="Hand in …" run={() => setAsk("hand-in")} />
        )}
        {row.exerciseId && staff && (
          <Entry name="Make it the reference …" run={() => setAsk("promote")} />
        )}
        {!row.exerciseId && !row.issueId && staff && (
          <Entry name="Make an exercise of it …" run={() => setAsk("promote")} />
        )}
        {row.issueId && <Entry name="Its exercise" run={() => void go(`/issues/${row.issueId}`)} />}
        {row.exerciseId && (
          <Entry name="Its exercise" run={() => void go(`/exercises/${row.exerciseId}`)} />
        )}
        {exports.map((e) => (
          <Entry key={e.format} name={`Export ${e.words}`} run={() => write.mutate(e)} />
        ))}
        <Entry name="Bring in a model document" run={() => input.current?.click()} />
        <Entry name="Remove this model …" run={() => setAsk("remove")} />
      </Menu>
      <FileInput ref={input} accept=".json" label="Model document" take={(f) => void bring(f)} />
      {ask_ === "hand-in" && row.issueId && (
        <HandInHere
          what="model"
          issue={row.issueId}
          file={file}
          look={look}
          close={() => setAsk(null)}
        />
      )}
      {ask_ !== "hand-in" && (ask_ ?? (bad || write.error)) && (
        <Dialog
          label="Model"
          close={() => {
            setAsk(null);
            setBad("");
            write.reset();
          }}
        >
          <div className="text-sm">
            {write.error && <Trouble error={write.error} />}
            {bad && (
              <p role="alert" className="mb-2 font-semibold">
                {bad}
              </p>
            )}
            {ask_ === "promote" && (
              <>
                <p>
                  {row.exerciseId
                    ? "Makes a new version of the exercise with this model as its reference. " +
                      "What is issued already stays with the version that it was issued from."
                    : "Begins an exercise with this model as its reference: its views are laid " +
                      "out, and you say what is checked. The model stays as it is."}
                </p>
                <button
                  type="button"
                  className="btn btn-primary btn-sm mt-3"
                  autoFocus
                  disabled={running}
                  onClick={() => promote.mutate()}
                >
                  {promote.isPending
                    ? "Drawing its sheet …"
                    : row.exerciseId
                      ? "Make it the reference"
                      : "Make an exercise of it"}
                </button>
                {promote.error && <Trouble error={promote.error} />}
              </>
            )}
            {ask_ === "remove" && (
              <>
                <p>The model is gone then, with its versions; what was handed in from it stays.</p>
                <button
                  type="button"
                  className="btn btn-sm mt-3"
                  disabled={running}
                  onClick={() => remove.mutate()}
                >
                  Remove it for good
                </button>
                {remove.error && <Trouble error={remove.error} />}
              </>
            )}
            <button
              type="button"
              className="btn btn-ghost btn-sm mt-3 ml-2"
              onClick={() => {
                setAsk(null);
                setBad("");
              }}
            >
              {bad ? "Close" : "Not now"}
            </button>
          </div>
        </Dialog>
      )}
    </>
  );
}
