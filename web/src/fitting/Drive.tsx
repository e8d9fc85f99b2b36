import { useMutation } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { useParams } from "react-router";
import { type Schemas, ask, client } from "../api/client";
import { cx } from "../app/cx";
import { useChanged } from "../app/useChanged";
import { Trouble, sentence } from "../controls/notices";
import { saveFile } from "../controls/saveFile";
import { Curve } from "./Curve";
import { useAssemblyProgress } from "./assemblies";
import type { Fitting, Frame, Motion, Moving } from "./useFitting";

type Row = Frame["joints"][number];

/** Seconds in which a joint is played through its range, by speed. */
const speeds = [
  { words: "slow", seconds: 12 },
  { words: "even", seconds: 5 },
  { words: "fast", seconds: 2 },
];

const figure = (v: number, unit: string) =>
  `${v.toFixed(1).replace("-", "−")}${unit === "°" ? "°" : ` ${unit}`}`;

/** A joint driven by a slider or played to and fro: the mechanism follows as far as it can. */
export function Drive({
  row,
  range,
  fitting,
  moves,
}: {
  row: Row;
  range: NonNullable<Row["drive"]>;
  fitting: Fitting;
  moves: (m: Motion) => void;
}) {
  const [at, setAt] = useState(range.at);
  const [told, setTold] = useState<Moving | null>(null);
  const [speed, setSpeed] = useState(1);
  const [playing, setPlaying] = useState(false);
  const [motion, setMotion] = useState<Motion | null>(null);
  if (useChanged(range.at)) {
    setAt(range.at);
    setTold(null);
  }
  if (useChanged(fitting.frame?.revision)) setMotion(null);
  const moved = useRef(false);
  const way = useRef(1);
  const keep = () => {
    if (!moved.current) return;
    moved.current = false;
    void fitting.release(true);
  };
  const go = (value: number) => {
    setAt(value);
    moved.current = true;
    fitting.drive(row.joint.id, value, setTold);
  };
  const tick = useEffectEvent((seconds: number) => {
    const span = range.most - range.least;
    const step = (span * seconds) / (speeds[speed]?.seconds ?? 5);
    let next = at + way.current * step;
    if (told?.stopped || next > range.most || next < range.least) {
      way.current *= -1;
      next = (told?.stopped ? told.value : at) + way.current * step;
      setTold(null);
    }
    go(Math.min(range.most, Math.max(range.least, next)));
  });
  const leave = useEffectEvent(keep);
  useEffect(() => {
    if (!playing) return;
    let before = performance.now();
    const timer = window.setInterval(() => {
      const now = performance.now();
      tick((now - before) / 1000);
      before = now;
    }, 30);
    return () => {
      window.clearInterval(timer);
      leave();
    };
  }, [playing]);
  const stop = useRef<AbortController | null>(null);
  const id = Number(useParams().id);
  const sweep = useMutation({
    mutationFn: async () => {
      stop.current = new AbortController();
      const of = fitting.frame?.revision;
      const found = await ask(
        client.POST("/assemblies/{id}/sweep", {
          params: { path: { id } },
          body: {
            document: await fitting.state(),
            joint: row.joint.id,
            from: range.least * range.scale,
            to: range.most * range.scale,
          },
          signal: stop.current.signal,
        }),
      );
      return { of, swept: found.swept };
    },
  });
  const progress = useAssemblyProgress(id, sweep.isPending);
  const swept = sweep.data?.of === fitting.frame?.revision ? sweep.data?.swept : undefined;
  const record = async () => {
    const m = await fitting.motion(row.joint.id);
    setMotion(m);
    moves(m);
  };
  return (
    <div className="flex flex-col gap-1 py-1">
      <div className="flex items-center gap-2">
        <input
          type="range"
          className="range range-xs flex-1"
          aria-label={`Drive ${row.title}`}
          min={range.least}
          max={range.most}
          step="any"
          value={at}
          onChange={(e) => go(Number(e.target.value))}
          onPointerUp={keep}
          onKeyUp={keep}
          onBlur={keep}
        />
        <span className="w-28 text-right text-xs" role="status">
          {figure(told?.value ?? range.at, range.unit)}
          {told?.stopped && ", it stops here"}
        </span>
      </div>
      {swept && <Swept row={row} range={range} frame={fitting.frame} swept={swept} />}
      <div className="flex flex-wrap items-center gap-1">
        <button type="button" className="btn btn-xs" onClick={() => setPlaying(!playing)}>
          {playing ? "Stop" : "Play"}
        </button>
        <select
          className="select select-xs w-20"
          aria-label="Speed"
          value={speed}
          onChange={(e) => setSpeed(Number(e.target.value))}
        >
          {speeds.map((s, i) => (
            <option key={s.words} value={i}>
              {s.words}
            </option>
          ))}
        </select>
        <button
          type="button"
          className="btn btn-xs"
          title="Drive the joint through its range and draw the paths of the traced points"
          onClick={() => void record()}
        >
          Draw the paths
        </button>
        {sweep.isPending ? (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => {
              stop.current?.abort();
              sweep.reset();
            }}
          >
            {`Looking ${Math.round(100 * (progress?.done ?? 0))} % … stop it`}
          </button>
        ) : (
          <button
            type="button"
            className="btn btn-xs"
            title="Look for collisions over the whole range of the joint"
            onClick={() => sweep.mutate()}
          >
            Where it collides
          </button>
        )}
        {motion && (
          <button
            type="button"
            className="btn btn-xs"
            title="Where every joint and traced point is, and how fast it goes"
            onClick={() => saveFile(csv(motion), `${row.title}.csv`)}
          >
            Table (CSV)
          </button>
        )}
      </div>
      {motion && <Curve table={motion.table} />}
      {sweep.error && <Trouble error={sweep.error} retry={() => sweep.mutate()} />}
      {motion?.table.stopped && (
        <p className="text-xs">The mechanism does not follow through the whole range.</p>
      )}
    </div>
  );
}

/** The range of a joint as a strip: where nothing collides it is plain. */
function Swept({
  row,
  range,
  frame,
  swept,
}: {
  row: Row;
  range: NonNullable<Row["drive"]>;
  frame: Frame | null;
  swept: Schemas["SweptMotion"]["swept"];
}) {
  const name = (c: string) => frame?.components.find((x) => x.id === c)?.name ?? c;
  const share = (v: number) => (100 * (v / range.scale - range.least)) / (range.most - range.least);
  return (
    <div role="group" aria-label={`Collisions over ${row.title}`}>
      <div className="relative mr-30 h-2 border border-base-300 bg-base-200" aria-hidden>
        {swept.map((s) => (
          <span
            key={`${s.a} ${s.b} ${s.from}`}
            className={cx("absolute inset-y-0", s.kind === "collision" ? "bg-error" : "bg-warning")}
            style={{ left: `${share(s.from)}%`, width: `${share(s.to) - share(s.from)}%` }}
          />
        ))}
      </div>
      {swept.length === 0 && <p className="text-xs">Nothing collides over the whole range.</p>}
      {swept.map((s) => (
        <p key={`${s.a} ${s.b} ${s.from}`} className="text-xs">
          {sentence(
            `${name(s.a)} and ${name(s.b)} ` +
              (s.kind === "collision" ? "collide" : "are not proved to be free") +
              ` from ${figure(s.from / range.scale, range.unit)}` +
              ` to ${figure(s.to / range.scale, range.unit)}`,
          )}
        </p>
      ))}
    </div>
  );
}

function csv({ table }: Motion) {
  const cell = (text: string) => `"${text.replaceAll('"', '""')}"`;
  const rows = table.rows.map((r) => r.map((v) => v ?? "").join(","));
  return new Blob([[table.head.map(cell).join(","), ...rows, ""].join("\r\n")], {
    type: "text/csv",
  });
}
