import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../api/client";
import { distance } from "../app/format";
import { Loading, Panel, Trouble } from "../controls/notices";
import type { Saver } from "../saving/saver";
import { useSaving } from "../saving/savers";
import { letModelsBe } from "./edited";
import type { Fitting } from "./useFitting";

/** The kept states of an assembly, to go back to. */
export function VersionsPanel({
  id,
  fitting,
  saver,
}: {
  id: number;
  fitting: Fitting;
  saver: Saver;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Panel
      title="Versions"
      side={
        <button
          type="button"
          className="btn btn-xs"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? "Hide them" : "Show them"}
        </button>
      }
    >
      {open && <States id={id} fitting={fitting} saver={saver} />}
    </Panel>
  );
}

function States({ id, fitting, saver }: { id: number; fitting: Fitting; saver: Saver }) {
  const saved = useSaving(saver).kind === "saved";
  const list = useQuery({
    queryKey: ["assembly", id, "versions", fitting.frame?.revision, saved],
    queryFn: () => ask(client.GET("/assemblies/{id}/versions", { params: { path: { id } } })),
    placeholderData: (before) => before,
  });
  const [trouble, setTrouble] = useState<unknown>(null);
  const back = async (version: number) => {
    try {
      const v = await ask(
        client.GET("/assemblies/{id}/versions/{version}", { params: { path: { id, version } } }),
      );
      letModelsBe(id);
      await fitting.goBack(v.document, `go back to version ${version}`);
      setTrouble(null);
    } catch (e) {
      setTrouble(e);
    }
  };
  if (list.error) return <Trouble error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the versions" />;
  return (
    <>
      {trouble !== null && <Trouble error={trouble} />}
      <ul className="max-h-72 overflow-auto" aria-label="Kept versions">
        {list.data.map((v) => (
          <li key={v.version} className="flex items-center gap-2 px-2 py-0.5">
            <span className="w-6 shrink-0 font-heading tabular-nums">{v.version}</span>
            <span className="min-w-0 flex-1 truncate" title={`${v.what}, ${distance(v.saved)}`}>
              {v.what}
            </span>
            <button type="button" className="btn btn-xs" onClick={() => void back(v.version)}>
              Go back to it
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
