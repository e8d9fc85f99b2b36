import { useEffect, useState } from "react";
import { Problem, type Schemas, ask, client } from "../api/client";
import { Empty, Trouble, sentence } from "../controls/notices";
import { Table } from "../controls/Table";

type Followed = Schemas["Followed"];

const least = -0.5;
const most = 1;
const width = 240;
const x = (share: number) => 6 + ((share - least) / (most - least)) * (width - 12);

/**
 * One parameter: the interval in which the attempt follows the reference as a hatched bar, that of
 * the reference as a bracket.
 */
function Chart({ row }: { row: Followed }) {
  const [lo, hi] = row.reference;
  const mark = (e: Followed["low"], at: number) =>
    e.ends ? (
      <path
        d={`M${at} 3l5 6l-5 6l-5-6z`}
        className="fill-base-100 stroke-primary"
        strokeWidth={1.6}
      />
    ) : null;
  return (
    <svg
      viewBox={`0 0 ${width} 24`}
      width={width}
      height={24}
      role="img"
      aria-label={`${row.parameter} follows from ${row.low.value} to ${row.high.value}`}
    >
      <path d={`M${x(least)} 9H${x(most)}`} className="stroke-base-300" strokeWidth={1} />
      {lo && hi && (
        <path
          d={`M${x(lo.share)} 15v5H${x(hi.share)}v-5`}
          fill="none"
          className="stroke-base-content"
          strokeWidth={1}
          strokeDasharray="3 2"
        />
      )}
      {row.match !== "none" && (
        <path
          d={`M${x(row.low.share)} 9H${x(row.high.share)}`}
          className="stroke-primary"
          strokeWidth={7}
          strokeDasharray="5 2"
        />
      )}
      <path d={`M${x(0)} 2v14`} className="stroke-base-content" strokeWidth={1.4} />
      {row.match !== "none" && mark(row.low, x(row.low.share))}
      {row.match !== "none" && mark(row.high, x(row.high.share))}
    </svg>
  );
}

/** How far the attempt follows the reference, size by size, found when it is asked for. */
export function Reach({ attempt, model }: { attempt: number; model: boolean }) {
  const [found, setFound] = useState<Schemas["FollowedAll"] | null>(null);
  const [error, setError] = useState<Problem | null>(null);
  const [stop, setStop] = useState<AbortController | null>(null);
  const [done, setDone] = useState(0);
  useEffect(() => {
    if (!stop) return;
    const t = window.setInterval(
      () =>
        void client.GET("/attempts/{id}/reach", { params: { path: { id: attempt } } }).then(
          (r) => setDone(r.data?.done ?? 0),
          () => undefined,
        ),
      700,
    );
    return () => window.clearInterval(t);
  }, [stop, attempt]);
  useEffect(() => () => stop?.abort(), [stop]);
  const find = async () => {
    const c = new AbortController();
    setStop(c);
    setError(null);
    setDone(0);
    try {
      setFound(
        await ask(
          client.POST("/attempts/{id}/reach", {
            params: { path: { id: attempt } },
            signal: c.signal,
          }),
        ),
      );
    } catch (e) {
      if (!c.signal.aborted)
        setError(
          e instanceof Problem ? e : new Problem("the intervals cannot be found", "try again", 0),
        );
    }
    setStop(null);
  };
  if (!model) return <Empty>Sizes are varied in model documents only.</Empty>;
  if (error) return <Trouble error={error} retry={() => void find()} />;
  if (stop)
    return (
      <p className="flex items-center gap-2 px-4 py-3 text-sm" role="status">
        <span className="loading loading-ring loading-xs" />
        Varying every size <progress className="progress w-40" value={done} max={1} />
        <button type="button" className="btn btn-xs" onClick={() => stop.abort()}>
          Cancel
        </button>
      </p>
    );
  if (!found)
    return (
      <p className="px-4 py-3 text-sm">
        Varies every driving size from half to twice its value and finds where the model stops
        following the part.{" "}
        <button type="button" className="btn btn-xs" onClick={() => void find()}>
          Find how far it follows
        </button>
      </p>
    );
  return (
    <div className="text-sm">
      <Table label="How far each size follows">
        <thead>
          <tr>
            <th>Driving size</th>
            <th className="w-64 whitespace-normal">
              −50 % to +100 %: the bar follows, the bracket is the reference
            </th>
            <th>Where it ends</th>
          </tr>
        </thead>
        <tbody>
          {found.parameters.map((r) => (
            <tr key={r.parameter}>
              <td>
                {r.parameter}
                <br />
                <span className="text-xs opacity-80">
                  {r.nominal}
                  {r.match.startsWith("value") && `, here ${r.attempt}, matched by ${r.match}`}
                </span>
              </td>
              <td>
                <Chart row={r} />
              </td>
              <td className="text-xs">
                {r.match === "none"
                  ? "the model has no such parameter"
                  : [
                      r.low.ends && `below ${r.low.value}: ${r.low.why}`,
                      r.high.ends && `above ${r.high.value}: ${r.high.why}`,
                      r.low.both && "below, the part itself ends",
                      r.high.both && "above, the part itself ends",
                    ]
                      .filter(Boolean)
                      .map((s) => <p key={String(s)}>{sentence(String(s))}</p>)}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {found.whatIfs.length > 0 && (
        <Table label="What-ifs">
          <thead>
            <tr>
              <th>What-if</th>
              <th>Outcome</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {found.whatIfs.map((w) => (
              <tr key={w.name}>
                <td>{w.name}</td>
                <td className={w.outcome === "follows" ? "" : "font-semibold text-primary"}>
                  {w.outcome}
                </td>
                <td className="text-xs">{w.detail}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </div>
  );
}
