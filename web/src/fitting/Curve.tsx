import { useState } from "react";
import type { Motion } from "./useFitting";

type Table = Motion["table"];

const wide = 270;
const high = 96;
const tidy = (v: number) => String(Number(v.toPrecision(4))).replace("-", "−");

/** The runs of a column over the first one, in the picture: speeds have gaps at dead points. */
function runsOf({ rows }: Table, column: number) {
  const points = rows.map((r) => [r[0], r[column]] as const);
  const there = points.flatMap(([x, y]) => (x == null || y == null ? [] : [[x, y] as const]));
  const ends = (k: 0 | 1) => {
    const all = there.map((p) => p[k]);
    return [Math.min(...all), Math.max(...all)] as const;
  };
  const [left, right] = ends(0);
  const [low, top] = ends(1);
  // What is left of rounding is no curve.
  const flat = top - low <= 1e-6 * Math.max(1, Math.abs(top));
  const runs: string[][] = [[]];
  for (const [x, y] of points) {
    if (x == null || y == null) {
      runs.push([]);
      continue;
    }
    const across = right > left ? (wide * (x - left)) / (right - left) : 0;
    const up = flat ? high / 2 : (high * (top - y)) / (top - low);
    runs.at(-1)?.push(`${across.toFixed(1)},${up.toFixed(1)}`);
  }
  return { runs: runs.filter((r) => r.length > 1), left, right, low, top, flat };
}

/** A motion as curves and as a table: where joints and traced points are, and how fast they go. */
export function Curve({ table }: { table: Table }) {
  const [column, setColumn] = useState(1);
  const shown = Math.min(column, table.head.length - 1);
  if (table.head.length < 2 || table.rows.length < 2) return null;
  const c = runsOf(table, shown);
  return (
    <figure className="text-xs">
      <select
        className="select select-xs w-full"
        aria-label="What is shown over the drive"
        value={shown}
        onChange={(e) => setColumn(Number(e.target.value))}
      >
        {table.head.slice(1).map((h, i) => (
          <option key={h} value={i + 1}>
            {h}
          </option>
        ))}
      </select>
      <svg
        viewBox={`-2 -18 ${wide + 4} ${high + 34}`}
        className="w-full"
        role="img"
        aria-label={
          `${table.head[shown]} over ${table.head[0]}: ` + `from ${tidy(c.low)} to ${tidy(c.top)}`
        }
      >
        <rect width={wide} height={high} className="fill-base-100 stroke-base-300" />
        {c.low < 0 && c.top > 0 && (
          <line
            x2={wide}
            y1={(high * c.top) / (c.top - c.low)}
            y2={(high * c.top) / (c.top - c.low)}
            className="stroke-base-300"
          />
        )}
        {c.runs.map((r) => (
          <polyline key={r[0]} points={r.join(" ")} className="fill-none stroke-current" />
        ))}
        <text y={-4} fontSize={10} className="fill-current">
          {tidy(c.top)}
        </text>
        {!c.flat && (
          <text y={high - 2} x={2} fontSize={10} className="fill-current">
            {tidy(c.low)}
          </text>
        )}
        <text y={high + 12} fontSize={10} className="fill-current">
          {tidy(c.left)}
        </text>
        <text y={high + 12} x={wide / 2} fontSize={10} textAnchor="middle" className="fill-current">
          {table.head[0]}
        </text>
        <text y={high + 12} x={wide} fontSize={10} textAnchor="end" className="fill-current">
          {tidy(c.right)}
        </text>
      </svg>
      <details>
        <summary className="cursor-pointer">As a table</summary>
        <div className="max-h-48 overflow-auto">
          <table className="table table-xs">
            <thead>
              <tr>
                {table.head.map((h) => (
                  <th key={h}>{h}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((r, i) => (
                <tr key={i}>
                  {r.map((v, k) => (
                    <td key={k} className="tabular-nums">
                      {v == null ? "–" : tidy(v)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </figure>
  );
}
