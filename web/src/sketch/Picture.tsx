import { memo } from "react";
import type { Finding, Frame, Hit, Preview, Spot } from "./core/types";
import { symbol } from "./symbols";
import { cx } from "../app/cx";

export interface Look {
  chosen: Set<string>;
  /** What a finding or a list entry is about. */
  about: Set<string>;
  quiet: boolean;
  marks: boolean;
}

interface Props {
  frame: Frame;
  pixel: number;
  look: Look;
  wiggle: string[] | null;
}

/** Everything of a sketch that stands still while the pointer moves. */
export const Picture = memo(function Picture({ frame, pixel, look, wiggle }: Props) {
  const p = (n: number) => n * pixel;
  const is = (id: string) =>
    `${look.chosen.has(id) ? " is-chosen" : ""}${look.about.has(id) ? " is-about" : ""}`;
  return (
    <g className="k-sketch">
      {frame.regions.map((r, i) => (
        <path key={i} className={r.material ? "k-region" : "k-hole"} d={r.path} fillRule="evenodd">
          <title>{`Region of ${r.area}`}</title>
        </path>
      ))}
      {frame.curves.map((c, i) => (
        <g
          key={c.id}
          data-id={c.id}
          className={cx(
            "k-curve",
            c.guide && "is-guide",
            c.traced && "is-traced",
            c.loose && "is-loose",
            is(c.id),
          )}
        >
          {c.loose && <path className="k-halo" d={wiggle?.[i] ?? c.path} />}
          <path className="k-ink" d={wiggle?.[i] ?? c.path} />
          <path className="k-hit" d={c.path} />
          <title>
            {[
              `${c.kind} ${c.id}`,
              c.loose ? "loose" : "held",
              c.guide && "guide line",
              c.traced && "traced edge",
            ]
              .filter(Boolean)
              .join(", ")}
          </title>
        </g>
      ))}
      {frame.zigzags.map((z, i) => (
        <path key={i} className="k-zigzag" d={z} />
      ))}
      {look.marks &&
        frame.marks.map((m, i) => (
          <g
            key={`${m.id}/${i}`}
            data-id={m.id}
            data-what="mark"
            className={cx("k-mark", m.bad && "is-bad", m.guessed && "is-guessed", is(m.id))}
            transform={`translate(${m.x} ${m.y}) scale(${p(0.82)})`}
          >
            <rect x="-7.5" y="-7.5" width="15" height="15" className="k-pad" />
            <path d={symbol(m.kind)} />
            <title>{`${m.kind.replaceAll("-", " ")} ${m.id}${m.guessed ? ", guessed" : ""}`}</title>
          </g>
        ))}
      {frame.sizes.map((s) => {
        const hushed = (look.quiet || s.quiet) && !look.chosen.has(s.id) && !look.about.has(s.id);
        return (
          <g
            key={s.id}
            data-id={s.id}
            data-what="size"
            className={cx(
              "k-size",
              s.driven && "is-driven",
              s.bad && "is-bad",
              hushed && "is-quiet",
              is(s.id),
            )}
          >
            {!hushed && <path className="k-lines" d={s.path} />}
            <text
              x={s.x}
              y={s.y}
              fontSize={p(hushed ? 10 : 12.5)}
              dy={p(4.3)}
              textAnchor="middle"
              strokeWidth={p(4)}
            >
              {hushed ? "·" + s.text.replace(/^.* = /, "") : s.text}
            </text>
            <title>{`${s.kind.replaceAll("-", " ")} ${s.id}: ${s.formula || "measured"}`}</title>
          </g>
        );
      })}
      {frame.points.map((q) => (
        <g
          key={q.id}
          data-id={q.id}
          className={cx("k-point", q.loose && "is-loose", q.joined && "is-joined", is(q.id))}
        >
          {q.loose && <circle className="k-halo" cx={q.x} cy={q.y} r={p(3)} />}
          {q.arrows && !wiggle && <path className="k-arrows" d={q.arrows} />}
          <circle className="k-ink" cx={q.x} cy={q.y} r={p(q.joined ? 3 : 2.3)} />
          <circle className="k-hit" cx={q.x} cy={q.y} r={p(7)} />
          <title>
            {[`point ${q.id}`, q.loose ? "loose" : "held", q.joined && "joined"]
              .filter(Boolean)
              .join(", ")}
          </title>
        </g>
      ))}
    </g>
  );
});

/** The axes and the origin, behind everything. */
export function Axes({
  view,
  pixel,
  chosen,
}: {
  view: { x: number; y: number; w: number; h: number };
  pixel: number;
  chosen: Set<string>;
}) {
  const is = (id: string) => (chosen.has(id) ? " is-chosen" : "");
  return (
    <g>
      <g data-id="x-axis" className={`k-axis${is("x-axis")}`}>
        <path d={`M${view.x} 0H${view.x + view.w}`} />
        <path className="k-hit" d={`M${view.x} 0H${view.x + view.w}`} />
      </g>
      <g data-id="y-axis" className={`k-axis${is("y-axis")}`}>
        <path d={`M0 ${view.y}V${view.y + view.h}`} />
        <path className="k-hit" d={`M0 ${view.y}V${view.y + view.h}`} />
      </g>
      <g data-id="origin" className={`k-origin${is("origin")}`}>
        <circle className="k-ring" r={6 * pixel} />
        <circle className="k-hit" r={8 * pixel} />
        <title>the origin</title>
      </g>
    </g>
  );
}

/** What a press would take now; of a curve that is trimmed, the piece that would go. */
export function Hot({ frame, hit, pixel }: { frame: Frame; hit: Hit; pixel: number }) {
  const curve = frame.curves.find((c) => c.id === hit.id);
  const point = frame.points.find((q) => q.id === hit.id);
  const size = frame.sizes.find((s) => s.id === hit.id);
  if (hit.piece !== undefined) return <path className="k-piece" d={hit.piece} />;
  if (curve) return <path className="k-hot" d={curve.path} />;
  if (point) return <circle className="k-hot" cx={point.x} cy={point.y} r={5 * pixel} />;
  if (hit.id === "origin") return <circle className="k-hot" r={7 * pixel} />;
  if (size)
    return (
      <>
        <path className="k-hot" d={size.path} />
        <path className="k-hot" d={`M${size.x - 16 * pixel} ${size.y + 8 * pixel}h${32 * pixel}`} />
      </>
    );
  return (
    <>
      {frame.marks
        .filter((m) => m.id === hit.id)
        .map((m, i) => (
          <rect
            key={i}
            className="k-hot"
            x={m.x - 8 * pixel}
            y={m.y - 8 * pixel}
            width={16 * pixel}
            height={16 * pixel}
          />
        ))}
    </>
  );
}

/** What would be drawn, and what is guessed of it. */
export function Ghost({ preview, pixel }: { preview: Preview; pixel: number }) {
  const { place } = preview;
  return (
    <g className="k-ghost">
      <path d={preview.path} />
      <circle cx={place.x} cy={place.y} r={3 * pixel} />
      {(place.guesses ?? []).map((g, i) => (
        <g
          key={i}
          transform={`translate(${place.x + 16 * pixel} ${place.y - (16 + 17 * i) * pixel})`}
        >
          <g transform={`scale(${0.9 * pixel})`} className="k-mark is-guessed">
            <path d={symbol(g.kind)} />
          </g>
          <text x={10 * pixel} dy={4 * pixel} fontSize={12 * pixel} strokeWidth={3.5 * pixel}>
            {g.words}
          </text>
        </g>
      ))}
      {preview.text && (
        <text
          className="k-readout"
          x={place.x + 14 * pixel}
          y={place.y + 22 * pixel}
          fontSize={12.5 * pixel}
          strokeWidth={3.5 * pixel}
        >
          {preview.text}
        </text>
      )}
    </g>
  );
}

/**
 * Points at whatever keeps a profile open, without being asked: a gap is bridged by a dotted line.
 */
export function OpenPlaces({ findings, pixel }: { findings: Finding[]; pixel: number }) {
  return (
    <g className="k-open">
      {findings
        .filter((f) => f.at && ["open-end", "crossing", "left-over", "doubled"].includes(f.kind))
        .map((f) => (
          <g key={f.id}>
            <path
              transform={`translate(${f.at?.x ?? 0} ${f.at?.y ?? 0}) scale(${pixel})`}
              d="M-6 -6h12v12h-12Z"
            />
            {f.at && f.near && f.repair && (
              <path d={`M${f.at.x} ${f.at.y}L${f.near.x} ${f.near.y}`} />
            )}
            <title>{f.what}</title>
          </g>
        ))}
    </g>
  );
}

/** Points at the place of a finding. */
export function Pointer({ finding, pixel }: { finding: Finding; pixel: number }) {
  if (!finding.at) return null;
  const a = finding.at;
  const ring = (s: Spot, r: number) => <circle cx={s.x} cy={s.y} r={r * pixel} />;
  return (
    <g className="k-pointer">
      {ring(a, 13)}
      {finding.near && (
        <>
          {ring(finding.near, 9)}
          <path d={`M${a.x} ${a.y}L${finding.near.x} ${finding.near.y}`} />
        </>
      )}
    </g>
  );
}
