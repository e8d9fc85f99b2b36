import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, ask, client } from "../api/client";
import { Empty, Trouble, sentence } from "../controls/notices";
import { type Doc, type Part, type SolidNote, titleOf } from "./types";
import { Table } from "../controls/Table";

type Pick = Schemas["Ref"];

const figure = (v: number) =>
  Math.abs(v) >= 1e6 ? v.toPrecision(8) : String(Number(v.toPrecision(8)));

function Copy({ text }: { text: string }) {
  const [done, setDone] = useState(false);
  const copy = () =>
    void navigator.clipboard.writeText(text).then(
      () => {
        setDone(true);
        window.setTimeout(() => setDone(false), 1200);
      },
      () => setDone(false),
    );
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs px-1"
      aria-label={`Copy ${text}`}
      onClick={copy}
    >
      {done ? "copied" : "copy"}
    </button>
  );
}

function Row({ label, first, other }: { label: string; first: string; other?: string }) {
  return (
    <tr>
      <td className="align-top">{label}</td>
      <td className="text-right tabular-nums">
        {first}
        {other && <div className="text-xs opacity-80">{other}</div>}
      </td>
      <td className="w-10 align-top">
        <Copy text={first} />
      </td>
    </tr>
  );
}

/** What one or two picks measure, from the solid itself. */
export function useMeasure(id: number, doc: Doc, until: string | undefined, picks: Pick[]) {
  const key = JSON.stringify([picks, doc, until]);
  return useQuery({
    queryKey: ["measure", id, key],
    enabled: picks.length === 1 || picks.length === 2,
    staleTime: Infinity,
    queryFn: () =>
      ask(
        client.POST("/models/{id}/measure", {
          params: { path: { id } },
          body: { document: doc, until, picks },
        }),
      ),
  });
}

const millimetres = (v: number) => figure(Number(v.toFixed(5)));
const inches = (v: number) => figure(Number((v / 25.4).toFixed(5)));

/** The figures of what is picked. */
export function Measure({ picks, q }: { picks: Pick[]; q: ReturnType<typeof useMeasure> }) {
  return picks.length === 0 ? (
    <Empty>
      Pick a face, an edge or a corner; with Shift a second one, for the distance and the angle
      between them.
    </Empty>
  ) : picks.length > 2 ? (
    <Empty>{picks.length} things are chosen; one or two are measured.</Empty>
  ) : q.error ? (
    <Trouble error={q.error} />
  ) : !q.data ? (
    <Empty>Measuring …</Empty>
  ) : (
    <Table label="Measured">
      <tbody>
        {q.data.rows.map((r) => (
          <Row key={r.label} {...r} />
        ))}
      </tbody>
    </Table>
  );
}

/** The solids with their figures, names and materials. */
export function Solids({
  doc,
  part,
  fresh,
  materials,
  change,
}: {
  doc: Doc;
  part: Part | undefined;
  fresh: boolean;
  materials: string[];
  change: (d: Doc, what: string) => void;
}) {
  if (!part || part.solids.length === 0) return <Empty>No solid yet.</Empty>;
  const note = (of: string): SolidNote => doc.solids?.find((s) => s.of === of) ?? { of };
  const put = (n: SolidNote) => {
    const rest = (doc.solids ?? []).filter((s) => s.of !== n.of);
    const clean = Object.fromEntries(
      Object.entries(n).filter(([, v]) => v),
    ) as unknown as SolidNote;
    change(
      { ...doc, solids: Object.keys(clean).length > 1 ? [...rest, clean] : rest },
      `names and materials of solids`,
    );
  };
  const mass = part.solids.reduce((m, s) => m + s.mass, 0);
  return (
    <div className={`text-sm ${fresh ? "" : "[&_td]:opacity-50"}`} aria-busy={!fresh}>
      {!fresh && (
        <p className="flex items-center gap-2 px-3 py-1 text-xs" role="status">
          <span className="loading loading-ring loading-xs" />
          Being rebuilt: these are the figures from before.
        </p>
      )}
      {part.solids.map((s) => {
        const n = note(s.of);
        const size = s.box.Max.map((v, i) => v - (s.box.Min[i] ?? 0));
        return (
          <section
            key={s.of}
            className="border-b border-base-300 px-3 py-2"
            aria-label={`Solid ${s.name}`}
          >
            <div className="mb-1 flex gap-1">
              <input
                className="input input-xs flex-1 font-semibold"
                aria-label={`Name of the solid ${s.of}`}
                defaultValue={n.name ?? ""}
                placeholder={s.of}
                onBlur={(e) =>
                  e.target.value !== (n.name ?? "") && put({ ...n, name: e.target.value })
                }
              />
              <select
                className="select select-xs w-32"
                aria-label={`Material of ${s.name}`}
                value={n.material ?? ""}
                onChange={(e) => put({ ...n, material: e.target.value })}
              >
                <option value="">no material</option>
                {materials.map((m) => (
                  <option key={m}>{m}</option>
                ))}
              </select>
              <input
                className="input input-xs w-16"
                aria-label={`Density of ${s.name} in kg/m³`}
                title="Density in kg/m³"
                defaultValue={n.density ?? ""}
                placeholder={s.density ? String(s.density) : "kg/m³"}
                onBlur={(e) =>
                  e.target.value !== (n.density ?? "") && put({ ...n, density: e.target.value })
                }
              />
            </div>
            <Table>
              <tbody>
                <Row
                  label="Volume"
                  first={`${figure(s.volume)} mm³`}
                  other={`${figure(s.volume / 16387.064)} in³`}
                />
                <Row
                  label="Area"
                  first={`${figure(s.area)} mm²`}
                  other={`${figure(s.area / 645.16)} in²`}
                />
                {s.mass > 0 && (
                  <Row
                    label="Mass"
                    first={`${figure(s.mass)} kg`}
                    other={`${figure(s.mass / 0.45359237)} lb`}
                  />
                )}
                <Row
                  label="Box"
                  first={`${size.map(millimetres).join(" × ")} mm`}
                  other={`${size.map(inches).join(" × ")} in`}
                />
                <Row
                  label="Centre of mass"
                  first={`${s.centroid.map(millimetres).join(", ")} mm`}
                  other={`${s.centroid.map(inches).join(", ")} in`}
                />
              </tbody>
            </Table>
            {s.lumps > 1 && (
              <p className="mt-1 font-semibold">In {s.lumps} pieces that do not hang together.</p>
            )}
          </section>
        );
      })}
      {part.solids.length > 1 && (
        <p className="px-3 py-2">
          {part.solids.length} solids, volume{" "}
          {figure(part.solids.reduce((v, s) => v + s.volume, 0))} mm³
          {mass > 0 && `, mass ${figure(mass)} kg`}
        </p>
      )}
    </div>
  );
}

/** What looking the model over found, each with its step. */
export function Findings({
  id,
  doc,
  part,
  go,
}: {
  id: number;
  doc: Doc;
  part: Part | undefined;
  go: (step: string) => void;
}) {
  const q = useQuery({
    queryKey: ["look", id, JSON.stringify(doc)],
    staleTime: Infinity,
    queryFn: () =>
      ask(client.POST("/models/{id}/look", { params: { path: { id } }, body: { document: doc } })),
  });
  if (q.isPending) return <Empty>Looking it over …</Empty>;
  if (!q.data) return <Trouble error={q.error} retry={() => void q.refetch()} />;
  if (q.data.length === 0)
    return (
      <Empty>
        Nothing stands out: every sketch is held, every step stands and has a name. The answer key
        was not looked at.
      </Empty>
    );
  const nameOf = (id: string) => {
    const step = doc.steps.find((x) => x.id === id);
    return step ? titleOf(step, part) : id;
  };
  return (
    <ul className="text-sm" aria-label="Findings">
      {q.data.map((f, i) => (
        <li key={i} className="border-b border-base-300 px-3 py-1.5">
          {f.step && (
            <button type="button" className="link mr-1 font-semibold" onClick={() => go(f.step)}>
              {nameOf(f.step)}
            </button>
          )}
          <span>{f.step ? `${f.what}.` : sentence(f.what)}</span>
          {f.remedy && <span className="block text-xs opacity-80">{sentence(f.remedy)}</span>}
        </li>
      ))}
    </ul>
  );
}
