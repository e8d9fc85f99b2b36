import { Panel } from "../controls/notices";
import { Entry } from "./Entry";
import type { Command, Frame } from "./useFitting";

/** The sizes of the assembly: parts and joints are given formulas in them. */
export function Sizes({ frame, act }: { frame: Frame; act: (c: Command) => void }) {
  // The core finds a name that is free.
  const fresh = () => act({ do: "size", size: { name: "", value: `10 ${frame.unit}` } });
  return (
    <Panel
      title="Sizes"
      side={
        <button type="button" className="btn btn-xs" onClick={fresh}>
          New size
        </button>
      }
    >
      {frame.sizes.length === 0 && (
        <p className="px-2 py-1">
          None yet. A size with a name can drive several parts and joints at once.
        </p>
      )}
      <ul aria-label="Sizes">
        {frame.sizes.map((s) => (
          <li key={s.name} className="flex items-center gap-1 px-2 py-0.5">
            <Entry
              label={`Name of ${s.name}`}
              className="w-20 font-semibold"
              value={s.name}
              take={(name) => act({ do: "size", name: s.name, size: { name, value: s.set } })}
            />
            <Entry
              label={`Formula of ${s.name}`}
              value={s.set}
              take={(value) =>
                act({ do: "size", name: s.name, size: { name: s.name, value, note: s.note } })
              }
            />
            <span className="w-16 truncate text-right text-xs tabular-nums" title={s.value}>
              {s.value}
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs px-1"
              aria-label={`Remove ${s.name}`}
              onClick={() => act({ do: "remove-size", name: s.name })}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
    </Panel>
  );
}
