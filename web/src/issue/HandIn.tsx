import { type DragEvent, useCallback, useRef, useState } from "react";
import { Link } from "react-router";
import {
  type AskedWhatIf,
  type AttemptRow,
  Problem,
  passes,
  queries,
  sendFile,
} from "../api/client";
import { useAskBeforeLeaving } from "../app/keep";
import { Trouble } from "../controls/notices";
import { cx } from "../app/cx";

/**
 * Takes an attempt by choosing or dropping a file. How its check goes on stands among the
 * attempts, so that nothing moves here under the hand.
 */
export function HandIn({
  issue,
  left,
  whatIfs = [],
  kind = "part",
  unshown,
}: {
  issue: number;
  left: number;
  whatIfs?: AskedWhatIf[];
  kind?: "part" | "assembly";
  /** What a STEP file cannot show, said before an attempt is used. */
  unshown?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [more, setMore] = useState<Record<string, File>>({});
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<{
    name: string;
    share: number;
    cancel: () => void;
  } | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [handed, setHanded] = useState<AttemptRow | null>(null);
  useAskBeforeLeaving(useCallback(() => sending !== null, [sending]));

  /** A mesh, about which it is asked first. */
  const [mesh, setMesh] = useState<File | null>(null);
  const send = (file: File, anyway = false) => {
    setError(null);
    setHanded(null);
    setMesh(null);
    const { done, cancel } = sendFile<AttemptRow>(
      `/api/issues/${issue}/attempts${anyway ? "?anyway=true" : ""}`,
      file,
      (share) => setSending({ name: file.name, share, cancel }),
      Object.fromEntries(Object.entries(more).map(([name, f]) => [`what-if:${name}`, f])),
    );
    setSending({ name: file.name, share: 0, cancel });
    // What is under way goes as what came of it appears, so that no link moves under the hand.
    done
      .then(
        (row) => {
          setSending(null);
          setHanded(row);
          setMore({});
        },
        (e: unknown) => {
          setSending(null);
          setError(e);
          if (e instanceof Problem && e.code === "mesh") setMesh(file);
        },
      )
      .finally(() => void queries.invalidateQueries());
  };
  const drop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    const f = e.dataTransfer.files[0];
    if (f && left > 0) send(f);
  };
  return (
    <div className="flex flex-col gap-3 p-4">
      {/* First: its link stays where it is when the check says how many attempts are left. */}
      {handed && (
        <p className="text-sm" role="status">
          {handed.already
            ? `This file is handed in already, as attempt ${handed.number}. ` +
              "It was not counted again."
            : `${handed.fileName} is handed in.`}{" "}
          <Link className="link" to={`/attempts/${handed.id}`}>
            Open attempt {handed.number}
          </Link>
        </p>
      )}
      {left > 0 && whatIfs.length > 0 && (
        <fieldset className="text-sm">
          <legend className="font-semibold">First, the same part at other sizes</legend>
          <p className="mb-1">
            Change the sizes, export STEP, and choose the file here. A model document needs none of
            this.
          </p>
          {whatIfs.map((w) => (
            <label key={w.name} className="flex items-baseline gap-2 border-t border-base-300 py-1">
              <span className="flex-1">
                <span className="font-semibold">{w.name}</span>: {w.sizes}
              </span>
              {more[w.name] && <span role="status">{more[w.name]?.name}</span>}
              <span className="btn btn-xs">{more[w.name] ? "Another file" : "Choose"}</span>
              <input
                type="file"
                className="sr-only"
                aria-label={`File for ${w.name}`}
                accept=".step,.stp,.p21"
                onChange={(e) => {
                  const f = e.target.files?.[0];
                  if (f) setMore({ ...more, [w.name]: f });
                  e.target.value = "";
                }}
              />
            </label>
          ))}
        </fieldset>
      )}
      {left > 0 ? (
        <div
          className={cx(
            "border-2 border-dashed p-4 text-center",
            over ? "border-primary bg-base-200" : "border-base-300",
          )}
          onDragOver={(e) => {
            e.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => setOver(false)}
          onDrop={drop}
        >
          <p className="text-sm">
            {kind === "assembly"
              ? "Drop your assembly here: its bundle (zip), which has the joints as well, or a " +
                "STEP file (AP203, AP214, AP242) with all its solids, at most 64 MB. A part can " +
                "be handed in by itself too."
              : "Drop your model here: a Hammerset model document (JSON) or a STEP file (AP203, " +
                "AP214, AP242), at most 64 MB. Of a mesh (STL, 3MF) only the figures of the " +
                "whole part can be compared."}
          </p>
          {unshown && <p className="mt-1 text-sm">{unshown}</p>}
          <input
            ref={input}
            type="file"
            className="hidden"
            aria-label="Model file"
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) send(f);
              e.target.value = "";
            }}
          />
          <button
            type="button"
            className="btn btn-primary btn-sm mt-2"
            disabled={!!sending}
            onClick={() => input.current?.click()}
          >
            Choose a file
          </button>
        </div>
      ) : (
        <p className="text-sm">
          {kind === "assembly" && handed
            ? "All attempts are used, unless this one only adds parts: its check will tell."
            : "All attempts are used. Ask your instructor for another."}
        </p>
      )}
      {sending && (
        <div className="flex items-center gap-2 text-sm" role="status">
          <progress className="progress progress-primary" value={sending.share} max={1} />
          Sending {sending.name}
          <button type="button" className="btn btn-xs" onClick={sending.cancel}>
            Cancel
          </button>
        </div>
      )}
      {error !== null && <Trouble error={error} />}
      {mesh && (
        <button type="button" className="btn btn-sm self-start" onClick={() => send(mesh, true)}>
          Hand the mesh in all the same
        </button>
      )}
      {error instanceof Problem && passes(error) && (
        <p className="text-sm">
          It may have arrived all the same: look under “My attempts”. The same file sent again makes
          no second attempt.
        </p>
      )}
    </div>
  );
}
