import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { ask, client, queries } from "../api/client";
import { Entry, Menu } from "../controls/Menu";
import { Trouble } from "../controls/notices";
import { saveFile } from "../controls/saveFile";

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
  settle,
  remove,
}: {
  id: number;
  name: string;
  /** Who looks at it may make exercises. */
  teaches: boolean;
  settle: () => Promise<boolean>;
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
  const begin = useMutation({
    mutationFn: async () => {
      if (!(await settle())) return null;
      return ask(client.POST("/assemblies/{id}/exercise", { params: { path: { id } } }));
    },
    onSuccess: (ex) => {
      void queries.invalidateQueries();
      if (ex) void go(`/exercises/${ex.id}`);
    },
  });
  return (
    <>
      <Menu
        name={begin.isPending ? "Drawing its sheets …" : write.isPending ? "Writing …" : "File"}
        wide
      >
        <Entry name="Save as a bundle (zip)" run={() => write.mutate(null)} />
        {formats.map((f) => (
          <Entry key={f.format} name={`Export ${f.words}`} run={() => write.mutate(f)} />
        ))}
        {teaches && <Entry name="Make an exercise of it" run={() => begin.mutate()} />}
        <Entry name="Remove this assembly …" run={remove} />
      </Menu>
      {begin.error && <Trouble error={begin.error} retry={() => begin.mutate()} />}
      {write.error && (
        <Trouble error={write.error} retry={() => write.mutate(write.variables ?? null)} />
      )}
    </>
  );
}
