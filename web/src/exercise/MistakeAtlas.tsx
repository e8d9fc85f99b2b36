import { useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { ask, client } from "../api/client";
import type { components } from "../api/schema";
import { Empty, Loading, Trouble, sentence } from "../controls/notices";
import { cx } from "../app/cx";
import { Table } from "../controls/Table";

type Mistake = components["schemas"]["Mistake"];

const percent = (v: number) =>
  (v >= 0 ? "+" : "−") +
  (Math.abs(v) < 0.1 ? Math.abs(v).toPrecision(1) : Math.abs(v).toFixed(1)) +
  " %";

/**
 * How each mistake would look: what a check would measure, and by how much the volume would be
 * off.
 */
export function MistakeAtlas({
  id,
  version,
  choose,
}: {
  id: number;
  version: number;
  choose: (balloon: number) => void;
}) {
  const [words, setWords] = useState("");
  const q = useQuery({
    queryKey: ["atlas", id, version],
    queryFn: () => ask(client.GET("/exercises/{id}/atlas", { params: { path: { id } } })),
    refetchInterval: (x) => (x.state.data?.state === "waiting" ? 2500 : false),
  });
  if (q.isPending) return <Loading what="the mistake atlas" />;
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  if (q.data.state === "none")
    return (
      <Empty>
        The reference is a STEP file: it has no steps in which a mistake could be made. Wrong sizes
        are still found.
      </Empty>
    );
  if (q.data.state === "waiting")
    return (
      <Empty>
        The mistakes are worked out once the exercise is issued; this takes a minute at most.
      </Empty>
    );
  const found = q.data.mistakes.filter((m) => fits(m, words));
  const steps = found.filter((m) => m.balloon === undefined);
  const read = found.filter((m) => m.balloon !== undefined);
  return (
    <div className="h-full overflow-auto">
      <div className="flex items-start gap-4 px-4 py-2">
        <p className="text-sm">
          A check looks every attempt up here. A wrong unit, a mirror image and another place are
          told before; any other value of a size is found besides, alone or with one of these.
        </p>
        <input
          type="search"
          className="input input-sm w-56 shrink-0"
          placeholder="words, or a balloon"
          aria-label="Find a mistake"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
      </div>
      {found.length === 0 && <Empty>No mistake has these words.</Empty>}
      {steps.length > 0 && (
        <Table size="sm" label="Mistake atlas">
          <thead>
            <tr>
              <th>Mistake in a step ({steps.length})</th>
              <th>Likely behind it</th>
              <th>Shows at</th>
              <th className="text-right">Volume</th>
            </tr>
          </thead>
          <tbody>
            {steps.map((m, i) => (
              <tr key={i} className="align-top">
                <td className="min-w-44">{sentence(m.what)}</td>
                <td className="min-w-44">{sentence(m.cause)}</td>
                <td>
                  {m.changes.length === 0 && <span>the whole part only</span>}
                  <Changes of={m} choose={choose} />
                  {m.solids > 1 && <span className="whitespace-nowrap">{m.solids} solids</span>}
                </td>
                <td className="whitespace-nowrap text-right tabular-nums">{percent(m.volume)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {read.length > 0 && (
        <Table size="sm" label="Sizes read wrongly">
          <thead>
            <tr>
              <th>Size read wrongly off the sheet ({read.length})</th>
              <th>Likely behind it</th>
              <th>Shows at, too</th>
              <th className="text-right">Volume</th>
            </tr>
          </thead>
          <tbody>
            {read.map((m, i) => {
              const own = m.changes.find((c) => c.balloon === m.balloon);
              return (
                <Fragment key={i}>
                  {m.balloon !== read[i - 1]?.balloon && own && (
                    <tr>
                      <th colSpan={4} className="pt-3">
                        <Balloon of={own.balloon} /> {own.label}, {own.sheet}
                      </th>
                    </tr>
                  )}
                  <tr className="align-top">
                    <td className="whitespace-nowrap pl-8 tabular-nums">
                      {own ? own.measures : sentence(m.what)}
                    </td>
                    <td className="min-w-44">{sentence(m.cause)}</td>
                    <td>
                      <Changes of={m} choose={choose} />
                    </td>
                    <td className="whitespace-nowrap text-right tabular-nums">
                      {percent(m.volume)}
                    </td>
                  </tr>
                </Fragment>
              );
            })}
          </tbody>
        </Table>
      )}
    </div>
  );
}

/** Every word stands in the mistake; a number is a balloon that it shows at. */
function fits(m: Mistake, words: string): boolean {
  const all = [m.what, m.cause, ...m.changes.map((c) => c.label)].join(" ").toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((w) => all.includes(w) || m.changes.some((c) => String(c.balloon) === w));
}

function Changes({ of, choose }: { of: Mistake; choose: (balloon: number) => void }) {
  return of.changes
    .filter((c) => c.balloon !== of.balloon)
    .map((c) => (
      <button
        key={c.balloon}
        type="button"
        className="mr-3 whitespace-nowrap hover:underline"
        title={c.label}
        onClick={() => choose(c.balloon)}
      >
        <Balloon of={c.balloon} />
        {c.sheet} → {c.measures}
      </button>
    ));
}

function Balloon({ of }: { of: number }) {
  return (
    <span
      className={cx(
        "mr-1 inline-block min-w-5 rounded-full border border-current px-1",
        "text-center text-xs",
      )}
    >
      {of}
    </span>
  );
}
