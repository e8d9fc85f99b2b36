import type { ReactNode } from "react";
import { useEffect, useRef } from "react";
import type { Attempt, Report } from "../api/client";
import { Verdict } from "../app/Verdict";
import { Empty, sentence } from "../controls/notices";
import { cx } from "../app/cx";
import { ChosenRow, Table } from "../controls/Table";

/** Every characteristic with limits, measured value, deviation and verdict. */
export function Characteristics({
  report,
  chosen,
  choose,
}: {
  report: Report;
  chosen: string | null;
  choose: (id: string | null) => void;
}) {
  const row = useRef<HTMLTableRowElement>(null);
  useEffect(() => {
    // Not returned: some browsers give a promise, which is no clean-up.
    void row.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    <Table label="Characteristics">
      <thead>
        <tr>
          <th>No</th>
          <th>Characteristic</th>
          <th>Sheet</th>
          <th>Limits</th>
          <th>Measured</th>
          <th>Deviation</th>
          <th>Verdict</th>
        </tr>
      </thead>
      <tbody>
        {report.characteristics.map((c) => (
          <ChosenRow
            key={c.id}
            ref={chosen === c.id ? row : undefined}
            data-row={c.id}
            chosen={chosen === c.id}
            onClick={() => choose(chosen === c.id ? null : c.id)}
          >
            <td className="whitespace-nowrap">{c.item ? `${c.item}/${c.balloon}` : c.balloon}</td>
            <td>
              <button type="button" className="text-left" aria-pressed={chosen === c.id}>
                {c.label}
              </button>
              {c.places.length > 1 && (
                <span className="opacity-80">
                  {" "}
                  ({c.places.filter((p) => p.verdict === "in").length} of {c.places.length})
                </span>
              )}
            </td>
            <td className="whitespace-nowrap">{c.nominalText}</td>
            <td className="whitespace-nowrap">{c.limitsText}</td>
            <td className="whitespace-nowrap">{c.measuredText ?? "–"}</td>
            <td className="whitespace-nowrap">{c.deviationText ?? "–"}</td>
            <td className="whitespace-nowrap">
              <Verdict of={c.verdict} />
              {c.carried && (
                <span
                  className="ml-1 text-xs"
                  title="It hangs on a size that is wrong elsewhere, and costs nothing"
                >
                  carried forward
                </span>
              )}
            </td>
          </ChosenRow>
        ))}
      </tbody>
    </Table>
  );
}

/** What the file is, and what it says of itself. */
function fileWords({ attempt }: Report) {
  const kind =
    {
      model: "Model document",
      step: `STEP ${attempt.schema?.split(" ")[0] ?? ""}`,
      stl: "STL mesh",
      "3mf": "3MF mesh",
    }[attempt.kind] ?? attempt.kind;
  const said = [kind];
  if (attempt.faces > 0) said.push(`${attempt.faces} faces`);
  if (attempt.names?.length) said.push(`named ${attempt.names.map((n) => `“${n}”`).join(", ")}`);
  if (attempt.colours)
    said.push(`${attempt.colours} ${attempt.colours === 1 ? "colour" : "colours"}`);
  return `${said.join(", ")}.`;
}

/** Whole-part figures and how the attempt lay. */
export function Whole({ report, staff }: { report: Report; staff: boolean }) {
  return (
    <>
      <Table>
        <tbody>
          {report.whole.map((f) => (
            <tr key={f.id}>
              <td className="w-2/5">{f.label}</td>
              <td className="text-right">{f.text}</td>
              {staff && <td className="whitespace-nowrap text-right">{f.deviation}</td>}
              <td>
                <Verdict of={f.verdict} />
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <p className="px-4 py-2 text-sm">
        {[report.pose, report.scale].map((x) => x && `${sentence(x.words)} `)}
        {fileWords(report)}
      </p>
    </>
  );
}

/** What there is to say about every sketch. */
export function Sketches({ report }: { report: Report }) {
  if (report.attempt.kind !== "model")
    return <Empty>A STEP file has no sketches to look at.</Empty>;
  return (
    <Table>
      <thead>
        <tr>
          <th>Sketch</th>
          <th>Freedoms</th>
          <th>What there is to say</th>
        </tr>
      </thead>
      <tbody>
        {report.sketches.map((s) => (
          <tr key={s.step}>
            <td>{s.name || s.step}</td>
            <td className="whitespace-nowrap">{s.held ? "0, held" : `${s.freedom}, loose`}</td>
            <td>
              {s.notes.length === 0 ? (
                "–"
              ) : (
                <ul className="flex flex-col gap-1">
                  {s.notes.map((n, i) => (
                    <li key={i}>{sentence(n.what)}</li>
                  ))}
                </ul>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

const range = (low: string, high: string, lowOpen: boolean, highOpen: boolean) =>
  lowOpen && highOpen ? "as far as looked" : `${lowOpen ? "…" : low} to ${highOpen ? "…" : high}`;

/**
 * How far each driving size can go before a sketch ends, beside the reference's where it may be
 * seen.
 */
export function Intervals({ report, staff }: { report: Report; staff: boolean }) {
  const rows = report.sketches
    .flatMap((s) => s.intervals.map((i) => ({ s, i })))
    .filter(({ i }) => !i.low.open || !i.high.open || i.low.early || i.high.early);
  if (report.attempt.kind !== "model")
    return <Empty>A STEP file has no sketches whose sizes could be varied.</Empty>;
  if (rows.length === 0)
    return <Empty>No sketch ends within a hundredth to ten times of its driving sizes.</Empty>;
  return (
    <Table label="Intervals of the sketches">
      <thead>
        <tr>
          <th>Size</th>
          <th>Now</th>
          <th>Holds</th>
          {staff && <th>Reference</th>}
          <th>What ends it</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ s, i }) => (
          <tr key={`${s.step}/${i.parameter}`}>
            <td>
              {i.parameter}
              <br />
              <span className="opacity-80">{s.name || s.step}</span>
            </td>
            <td className="whitespace-nowrap">{i.nominal}</td>
            <td
              className={cx(
                "whitespace-nowrap",
                (i.low.early || i.high.early) && "font-semibold text-primary",
              )}
            >
              {range(i.low.value, i.high.value, i.low.open, i.high.open)}
              {(i.low.early || i.high.early) && (
                <>
                  <br />
                  ends early
                </>
              )}
            </td>
            {staff && (
              <td className="whitespace-nowrap">
                {i.reference
                  ? range(
                      i.reference.low,
                      i.reference.high,
                      i.reference.lowOpen,
                      i.reference.highOpen,
                    )
                  : "–"}
              </td>
            )}
            <td>
              {[
                !i.low.open && i.low.why && `below: ${i.low.why}`,
                !i.high.open && i.high.why && `above: ${i.high.why}`,
              ]
                .filter(Boolean)
                .join("; ")}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** The sweep: one row for each driving size, one column for each change. */
function WhatIfs({ report }: { report: Report }) {
  return (
    <Table label="What-ifs">
      <thead>
        <tr>
          <th>What-if</th>
          <th>Outcome</th>
          <th>What stayed behind</th>
        </tr>
      </thead>
      <tbody>
        {report.whatIfs?.map((w) => (
          <tr key={w.name}>
            <td>{w.name}</td>
            <td className={w.outcome === "follows" ? "" : "font-semibold text-primary"}>
              {w.outcome}
            </td>
            <td>{w.detail ?? "–"}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

export function Sweep({ report }: { report: Report }) {
  if (report.whatIfs && report.whatIfs.length > 0) return <WhatIfs report={report} />;
  if (report.sweep.length === 0) return <Empty>Sizes are varied in model documents only.</Empty>;
  const percents = [...new Set(report.sweep.map((s) => s.percent))];
  const names = [...new Set(report.sweep.map((s) => s.parameter))];
  return (
    <Table>
      <thead>
        <tr>
          <th>Driving size</th>
          {percents.map((p) => (
            <th key={p}>
              {p > 0 ? "+" : "−"}
              {Math.abs(p)} %
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {names.map((n) => (
          <tr key={n}>
            <td>{n}</td>
            {percents.map((p) => {
              const s = report.sweep.find((r) => r.parameter === n && r.percent === p);
              const good = s?.outcome === "follows" || s?.outcome === "both end";
              return (
                <td key={p} title={s?.detail} className={good ? "" : "font-semibold text-primary"}>
                  {s?.outcome ?? "–"}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Findings in words, in the order in which to put them right. */
export function Findings({
  report,
  chosen,
  choose,
  lit,
  light,
  below,
}: {
  report: Report;
  chosen: string | null;
  choose: (id: string | null) => void;
  /** The finding whose faces are shown on the attempt. */
  lit?: string;
  light: (finding: Report["findings"][number]) => void;
  below?: (index: number) => ReactNode;
}) {
  if (report.findings.length === 0) {
    const off = report.whole.filter((f) => f.verdict === "out").length;
    return (
      <Empty>
        {off === 0
          ? "Nothing to put right: the model agrees with the sheet."
          : "Nothing that the sheet states is wrong, but " +
            (off === 1 ? "a figure of the whole part is" : `${off} figures of the whole part are`) +
            " out: something that has no balloon differs."}
      </Empty>
    );
  }
  return (
    <ol className="divide-y divide-base-300 text-sm">
      {report.findings.map((f, i) => (
        <li
          key={f.id}
          data-finding={f.kind}
          className={cx(
            "px-4 py-2",
            (lit === f.id || (f.characteristic && chosen === f.characteristic)) && "bg-base-200",
          )}
        >
          <p>
            {f.characteristic ? (
              <button
                type="button"
                className="link font-semibold"
                onClick={() => choose(f.characteristic ?? null)}
              >
                Balloon {f.balloon}, {f.where}
              </button>
            ) : f.faces?.length ? (
              <button
                type="button"
                className="link font-semibold"
                title="Show these faces on the attempt"
                onClick={() => light(f)}
              >
                {sentence(f.where).slice(0, -1)}
              </button>
            ) : (
              <span className="font-semibold">{sentence(f.where).slice(0, -1)}</span>
            )}
            : {sentence(f.what)}
          </p>
          {f.cause && (
            <p>
              {f.sure === "certain" ? "Behind it" : "Likely behind it"}: {f.cause}.{" "}
              <span className="opacity-80">({f.sure})</span>
            </p>
          )}
          <p>To do: {f.remedy}.</p>
          {below?.(i)}
        </li>
      ))}
    </ol>
  );
}

/** What changed since the attempt before. */
export function Changes({ attempt }: { attempt: Attempt }) {
  if (attempt.comparedWith === undefined) return null;
  if (attempt.changes.length === 0)
    return <Empty>Nothing was wrong in attempt {attempt.comparedWith}, and nothing is now.</Empty>;
  return (
    <Table label="Changes">
      <thead>
        <tr>
          <th>No</th>
          <th>Characteristic</th>
          <th>Attempt {attempt.comparedWith}</th>
          <th>Now</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {attempt.changes.map((c) => (
          <tr key={c.balloon}>
            <td>{c.balloon}</td>
            <td>{c.label}</td>
            <td>{c.before}</td>
            <td>{c.after}</td>
            <td className={c.kind === "fixed" ? "" : "font-semibold text-primary"}>{c.kind}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
