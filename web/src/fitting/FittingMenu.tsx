import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { Problem, ask, client, queries } from "../api/client";
import { Entry, Menu } from "../controls/Menu";
import { Trouble } from "../controls/notices";
import { saveFile } from "../controls/saveFile";
import { useAssemblyProgress } from "./assemblies";
import { HandInHere } from "../issue/HandInHere";
import { BeginExercise } from "./BeginExercise";

const formats = [
  { format: "ap242", ending: "step", words: "STEP, AP242" },
  { format: "ap214", ending: "step", words: "STEP, AP214" },
  { format: "3mf", ending: "3mf", words: "3MF, a mesh for each part" },
  { format: "stl", ending: "stl", words: "STL, one mesh" },
] as const;

/** What is done with the whole assembly: files of it, and removing it. */
export function FittingMenu({
  id,
  name,
  teaches,
  issue,
  exercise,
  handsIn,
  loose,
  read,
  settle,
  look,
  remove,
}: {
  id: number;
  name: string;
  /** Who looks at it may make exercises. */
  teaches: boolean;
  /** The issued exercise that it is made for. */
  issue: number | undefined;
  /** The exercise of which it becomes the reference. */
  exercise: number | undefined;
  /** Who looks at it hands in attempts. */
  handsIn: boolean;
  /** How many parts no joint holds. */
  loose: number;
  /** Reads joints from the contacts. */
  read: () => void;
  settle: () => Promise<boolean>;
  look: () => void;
  remove: () => void;
}) {
  const write = useMutation({
    mutationFn: async (f: (typeof formats)[number] | null) => {
      if (!(await settle())) return;
      const params = { path: { id } };
      const data = f
        ? await ask(
            client.GET("/assemblies/{id}/export", {
              params: { ...params, query: { format: f.format } },
              parseAs: "blob",
            }),
          )
        : await ask(client.GET("/assemblies/{id}/bundle", { params, parseAs: "blob" }));
      saveFile(data as unknown as Blob, `${name}.${f?.ending ?? "zip"}`);
    },
  });
  const go = useNavigate();
  const stop = useRef<AbortController | null>(null);
  const begin = useMutation({
    mutationFn: async () => {
      const { signal } = (stop.current = new AbortController());
      if (!(await settle())) return null;
      return ask(client.POST("/assemblies/{id}/exercise", { params: { path: { id } }, signal }));
    },
    onSuccess: (ex) => {
      void queries.invalidateQueries();
      if (ex) void go(`/exercises/${ex.id}`);
    },
  });
  const progress = useAssemblyProgress(id, begin.isPending);
  const bundle = async () => {
    if (!(await settle())) throw new Problem("it could not be saved", "try again", 0);
    const params = { path: { id } };
    const data = await ask(client.GET("/assemblies/{id}/bundle", { params, parseAs: "blob" }));
    return new File([data as unknown as Blob], `${name}.zip`, { type: "application/zip" });
  };
  const [handing, setHanding] = useState(false);
  const [asking, setAsking] = useState(false);
  const beginOrAsk = () => (loose > 0 && !exercise ? setAsking(true) : begin.mutate());
  return (
    <>
      <Menu name={write.isPending ? "Writing …" : "File"} wide>
        {issue && handsIn && <Entry name="Hand in …" run={() => setHanding(true)} />}
        {issue && <Entry name="Its exercise" run={() => void go(`/issues/${issue}`)} />}
        <Entry name="Save as a bundle (zip)" run={() => write.mutate(null)} />
        {formats.map((f) => (
          <Entry key={f.format} name={`Export ${f.words}`} run={() => write.mutate(f)} />
        ))}
        {exercise && <Entry name="Its exercise" run={() => void go(`/exercises/${exercise}`)} />}
        {teaches && (
          <Entry
            name={exercise ? "Make it the reference" : "Make an exercise of it"}
            run={beginOrAsk}
          />
        )}
        <Entry name="Remove this assembly …" run={remove} />
      </Menu>
      {handing && issue && (
        <HandInHere
          what="assembly"
          issue={issue}
          file={bundle}
          look={look}
          close={() => setHanding(false)}
        />
      )}
      {asking && (
        <BeginExercise
          loose={loose}
          read={read}
          begin={() => begin.mutate()}
          close={() => setAsking(false)}
        />
      )}
      {begin.isPending && (
        <p className="flex items-center gap-2 text-xs" role="status">
          Drawing its sheets
          <progress className="progress w-24" value={progress?.done ?? 0} max={1} />
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => {
              stop.current?.abort();
              begin.reset();
            }}
          >
            Stop it
          </button>
        </p>
      )}
      {begin.error && <Trouble error={begin.error} retry={() => begin.mutate()} />}
      {write.error && (
        <Trouble error={write.error} retry={() => write.mutate(write.variables ?? null)} />
      )}
    </>
  );
}
