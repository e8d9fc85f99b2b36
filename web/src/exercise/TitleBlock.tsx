import type { Schemas } from "../api/client";

type Block = Schemas["TitleBlock"];

const fields = [
  ["creator", "Created by", ""],
  ["approver", "Approved by", ""],
  ["date", "Date of issue", "2026-09-01"],
  ["documentType", "Document type", "Part drawing"],
  ["revision", "Revision", ""],
] as const;

/** What the title block says beside title, number and material. */
export function TitleBlock({
  owner,
  block,
  change,
}: {
  owner: string;
  block: Block;
  change: (owner: string, block: Block) => void;
}) {
  return (
    <details>
      <summary className="cursor-pointer">Title block</summary>
      <div className="mt-2 flex flex-col gap-2">
        <label className="flex items-center gap-2">
          <span className="w-32">Owner</span>
          <input
            className="input input-xs flex-1"
            maxLength={60}
            value={owner}
            onChange={(e) => change(e.target.value, block)}
          />
        </label>
        {fields.map(([k, label, example]) => (
          <label key={k} className="flex items-center gap-2">
            <span className="w-32">{label}</span>
            <input
              className="input input-xs flex-1"
              maxLength={60}
              placeholder={example}
              value={block[k] ?? ""}
              onChange={(e) => change(owner, { ...block, [k]: e.target.value })}
            />
          </label>
        ))}
      </div>
    </details>
  );
}
