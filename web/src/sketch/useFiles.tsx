import { useCallback, useRef } from "react";
import { Problem } from "../api/client";
import type { Frame } from "./core/types";
import type { Sketching } from "./useSketch";
import { FileInput } from "../controls/FileInput";
import { saveFile } from "../controls/saveFile";

/** Saves the sketch as DXF or SVG, and reads DXF into it. */
export function useFiles(sk: Sketching, name: string, whole: () => void) {
  const ref = useRef<HTMLInputElement>(null);
  const { engine, show, say, pixel } = sk;
  const save = useCallback(
    async (kind: "dxf" | "svg") => {
      if (!engine) return;
      try {
        const text = await engine.call<string>("export", { name: kind, text: name });
        const file = `${name}.${kind}`;
        const type = kind === "svg" ? "image/svg+xml" : "image/vnd.dxf";
        saveFile(new Blob([text], { type }), file);
        say({ bad: false, text: `${file} is written` });
      } catch (e) {
        say({ bad: true, text: e instanceof Problem ? e.what : "the file could not be written" });
      }
    },
    [engine, name, say],
  );
  const read = useCallback(
    async (file: File) => {
      if (!engine) return;
      try {
        const got = await engine.call<{ frame: Frame; notes: string[] }>("import", {
          name: file.name,
          text: await file.text(),
          pixel,
        });
        await show(Promise.resolve(got.frame), true);
        whole();
        say({
          bad: false,
          text: [
            `${file.name} is read: what belongs together is offered as findings`,
            ...got.notes,
          ].join("; "),
        });
      } catch (e) {
        say({
          bad: true,
          text: `${file.name}: ${e instanceof Problem ? e.what : "the file could not be read"}`,
        });
      }
    },
    [engine, pixel, show, say, whole],
  );
  const open = useCallback(() => ref.current?.click(), []);
  const input = <FileInput ref={ref} accept=".dxf" label="DXF file" take={(f) => void read(f)} />;
  return { save, open, input };
}
