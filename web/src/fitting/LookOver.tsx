import { Panel, sentence } from "../controls/notices";
import type { Command, Finding } from "./useFitting";

/** What there is to look at, each with its place and, where there is one, a repair. */
export function LookOver({
  found,
  choose,
  act,
}: {
  found: Finding[];
  choose: (id: string) => void;
  act: (c: Command) => void;
}) {
  return (
    <Panel title="Looked over">
      {found.length === 0 && <p className="px-2 py-1">There is nothing to say.</p>}
      <ul>
        {found.map((f) => (
          <li key={f.what} className="px-2 py-1">
            <button
              type="button"
              className="text-left"
              onClick={() => {
                const [first] = f.components;
                if (first) choose(first);
              }}
            >
              {sentence(f.what)}
            </button>
            <p className="text-xs opacity-80">{sentence(f.remedy)}</p>
            {f.repair && f.do && (
              <button
                type="button"
                className="btn btn-xs"
                onClick={() => {
                  if (f.repair) act(f.repair);
                }}
              >
                {f.do}
              </button>
            )}
          </li>
        ))}
      </ul>
    </Panel>
  );
}
