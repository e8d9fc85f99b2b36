import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type components } from "../api/schema";
import { type Exercise, queries, sendFile } from "../api/client";
import { Dialog } from "../controls/Dialog";
import { FileButton } from "../controls/FileInput";
import { Table } from "../controls/Table";
import { Trouble, sentence } from "../controls/notices";

type Rebound = components["schemas"]["Rebound"];

const send = (exercise: Exercise, file: File, save: boolean, accepted: string[]) => {
  const asked = new URLSearchParams({ version: String(exercise.version), save: String(save) });
  for (const id of accepted) asked.append("accepted", id);
  return sendFile<Rebound>(
    `/api/exercises/${exercise.id}/reference?${asked.toString()}`,
    file,
    () => undefined,
  ).done;
};

/** Takes another file as the reference: what is bound otherwise is looked at before it counts. */
export function OtherReference({ exercise }: { exercise: Exercise }) {
  const [file, setFile] = useState<File | null>(null);
  const look = useMutation({
    mutationFn: (f: File) => send(exercise, f, false, []),
    onSuccess: (_, f) => {
      setFile(f);
    },
  });
  return (
    <>
      <FileButton
        accept=".step,.stp,.json"
        label="Other reference"
        className="btn btn-xs"
        name="Other reference"
        busy="Looking for the faces …"
        sending={look}
        take={(f) => {
          look.mutate(f);
        }}
      />
      {file && look.data && (
        <Confirm
          exercise={exercise}
          file={file}
          found={look.data}
          close={() => {
            setFile(null);
          }}
        />
      )}
    </>
  );
}

interface Props {
  exercise: Exercise;
  file: File;
  found: Rebound;
  close: () => void;
}

/** What becomes of the exercise: what is doubtful is confirmed one by one, or left out. */
function Confirm({ exercise, file, found, close }: Props) {
  const [right, setRight] = useState<string[]>([]);
  const take = useMutation({
    mutationFn: () => send(exercise, file, true, right),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const doubtful = found.bindings.filter((b) => !b.lost);
  const lost = found.bindings.filter((b) => b.lost);
  return (
    <Dialog wide label={`${file.name} as the reference`} close={close}>
      <div className="flex flex-col gap-3 text-sm">
        <h2>{file.name} as the reference</h2>
        <p>
          {`${found.kept} of ${exercise.characteristics.length} characteristics `}
          are found on it as they were.
          {found.turned &&
            " The part lies otherwise in this file: look at the views, or arrange them anew."}
        </p>
        {found.changes.length > 0 && (
          <section>
            <h3>Stated otherwise</h3>
            <Table size="sm">
              <tbody>
                {found.changes.map((c) => (
                  <tr key={c.balloon}>
                    <td>{c.balloon}</td>
                    <td>{c.label}</td>
                    <td className="whitespace-nowrap text-right">
                      {c.was} becomes {c.is}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </section>
        )}
        {doubtful.length > 0 && (
          <section>
            <h3>Doubtful: tick what is right</h3>
            <ul>
              {doubtful.map((b) => (
                <li key={b.id}>
                  <label className="flex items-start gap-2 py-1">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs mt-1"
                      checked={right.includes(b.id)}
                      onChange={(e) => {
                        setRight(
                          e.target.checked ? [...right, b.id] : right.filter((x) => x !== b.id),
                        );
                      }}
                    />
                    <span>
                      {b.label}: {b.what}
                    </span>
                  </label>
                </li>
              ))}
            </ul>
          </section>
        )}
        {lost.length > 0 && (
          <section>
            <h3>Lost: left out of the next version</h3>
            <ul className="list-disc pl-5">
              {lost.map((b) => (
                <li key={b.id}>
                  {b.label}: {sentence(b.what)}
                </li>
              ))}
            </ul>
          </section>
        )}
        {take.error && <Trouble error={take.error} />}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            Keep the reference as it is
          </button>
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={take.isPending}
            onClick={() => {
              take.mutate();
            }}
          >
            {take.isPending ? "Drawing …" : `Take it as version ${exercise.version + 1}`}
          </button>
        </div>
      </div>
    </Dialog>
  );
}
