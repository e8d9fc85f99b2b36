import { useTab } from "../app/place";
import type { Finding } from "./core/types";
import { Constraints, Findings } from "./panels";
import { Parameters } from "./Parameters";
import type { Sketching } from "./useSketch";

const tabs = ["findings", "constraints", "parameters"] as const;

/** What there is to say of a sketch, beside the drawing board. */
export function Panel({
  sk,
  unit,
  finding,
  pick,
}: {
  sk: Sketching;
  unit: string;
  finding: string | null;
  pick: (f: Finding | null) => void;
}) {
  const { frame, chosen, choose, act } = sk;
  const [tab, setTab] = useTab<(typeof tabs)[number]>([...tabs], "findings");
  return (
    <aside
      className="flex w-72 min-h-0 flex-col border-l border-base-300 bg-base-100"
      aria-label="What there is to say"
    >
      <div role="tablist" className="tabs tabs-border shrink-0 border-b border-base-300">
        {tabs.map((t) => (
          <button
            key={t}
            type="button"
            role="tab"
            aria-selected={tab === t}
            className={`tab px-1.5 text-[0.8125rem] ${tab === t ? "tab-active" : ""}`}
            onClick={() => setTab(t)}
          >
            <span className="first-letter:uppercase">{t}</span>&nbsp;{frame?.[t].length ?? 0}
          </button>
        ))}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {frame && tab === "findings" && (
          <Findings
            frame={frame}
            looking={sk.looking}
            picked={finding}
            pick={pick}
            repair={(f) => void act({ do: "repair", id: f.id })}
            repairAll={(kind) => void act({ do: "repair-all", kind })}
          />
        )}
        {frame && tab === "constraints" && (
          <Constraints
            frame={frame}
            chosen={chosen}
            choose={choose}
            remove={(id) => void act({ do: "remove", ids: [id] })}
          />
        )}
        {frame && tab === "parameters" && <Parameters sk={sk} unit={unit} />}
      </div>
    </aside>
  );
}
