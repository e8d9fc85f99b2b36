import { useState } from "react";
import type { Report, Schemas } from "../api/client";
import { Verdict } from "../app/Verdict";
import { Empty, Panel, sentence } from "../controls/notices";
import { ChosenRow, Table } from "../controls/Table";
import { Characteristics } from "./tables";

type Of = NonNullable<Report["assembly"]>;
type Item = Schemas["ReportItem"];
type Joint = Schemas["ReportJoint"];

/** The parts list as the attempt has it; each line leads into the characteristics of its part. */
function Items({
  of,
  report,
  chosen,
  choose,
  open,
  setOpen,
}: {
  of: Of;
  report: Report;
  chosen: string | null;
  choose: (id: string | null) => void;
  open: string | null;
  setOpen: (item: string | null) => void;
}) {
  return (
    <>
      <Table label="Items">
        <thead>
          <tr>
            <th>Item</th>
            <th>Name</th>
            <th>Asked for</th>
            <th>Found</th>
            <th>Verdict</th>
          </tr>
        </thead>
        <tbody>
          {of.items.map((i) => (
            <ChosenRow
              key={i.number}
              chosen={open === i.number}
              onClick={() => setOpen(open === i.number ? null : i.number)}
            >
              <td>{i.number}</td>
              <td>
                <button type="button" className="text-left" aria-expanded={open === i.number}>
                  {i.name}
                  {i.given && " (given)"}
                </button>
              </td>
              <td>{i.wanted}</td>
              <td>{i.found}</td>
              <td>
                <Verdict of={i.verdict} />
                {i.reason && <span className="ml-2 text-sm">{i.reason}</span>}
              </td>
            </ChosenRow>
          ))}
        </tbody>
      </Table>
      {open && (
        <Part
          item={of.items.find((i) => i.number === open)}
          report={report}
          chosen={chosen}
          choose={choose}
        />
      )}
    </>
  );
}

/** What was measured on the part of one item. */
function Part({
  item,
  report,
  chosen,
  choose,
}: {
  item: Item | undefined;
  report: Report;
  chosen: string | null;
  choose: (id: string | null) => void;
}) {
  if (!item) return null;
  const own = report.characteristics.filter((c) => c.item === item.number);
  return (
    <section aria-label={`Item ${item.number}, ${item.name}`} className="border-t border-base-300">
      {item.variants.length > 1 && (
        <p className="px-4 py-2 text-sm">
          {item.variants.length} different solids stand for it:{" "}
          {item.variants.map((v) => v.names.join(", ")).join("; ")}. The worst of each
          characteristic is shown.
        </p>
      )}
      {item.variants.map(
        (v) =>
          v.unusable && (
            <p key={v.names.join()} role="alert" className="px-4 py-2 text-sm">
              {v.names.join(", ")} could not be checked: {v.unusable}
            </p>
          ),
      )}
      {own.length > 0 ? (
        <Characteristics
          report={{ ...report, characteristics: own }}
          chosen={chosen}
          choose={choose}
        />
      ) : (
        <Empty>
          {item.found === 0
            ? "It is not there, so that nothing could be measured."
            : item.variants.every((v) => v.same)
              ? "It is the very part that the parts list names."
              : "No sheet says what is measured on it."}
        </Empty>
      )}
    </section>
  );
}

function offWords(j: Joint) {
  const off = j.conditions.filter((c) => c.verdict !== "in");
  if (off.length === 0) return j.reason ?? "";
  return off
    .map((c) => (c.what === "facing" ? "the wrong way round" : `${c.what} off by ${c.text}`))
    .join(", ");
}

function Joints({ of }: { of: Of }) {
  return (
    <Table label="Joints">
      <thead>
        <tr>
          <th>Joint</th>
          <th>Placed</th>
          <th>Should leave</th>
          <th>Leaves</th>
          <th>Moves</th>
        </tr>
      </thead>
      <tbody>
        {of.joints.map((j) => (
          <tr key={j.id}>
            <td>
              {j.name}
              <span className="block text-xs opacity-80">
                {j.titles[0]} – {j.titles[1]}
              </span>
            </td>
            <td>
              <Verdict of={j.placed} />
              <span className="ml-2 text-sm">{j.placed !== "in" && offWords(j)}</span>
            </td>
            <td>{j.wanted ?? "–"}</td>
            <td>{j.found ?? "–"}</td>
            <td>{j.verdict ? <Verdict of={j.verdict} /> : "not counted"}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

function Whole({ of }: { of: Of }) {
  const m = of.mobility;
  return (
    <ul className="divide-y divide-base-300 text-sm">
      {m && (
        <li className="flex gap-2 px-4 py-2">
          <Verdict of={m.verdict} />
          Mobility {m.found}, of {m.wanted}
          {m.reason && `: ${m.reason}`}
        </li>
      )}
      {of.motion.map((x) => (
        <li key={x.joint} className="flex gap-2 px-4 py-2">
          <Verdict of={x.verdict} />
          {x.name}: driven to {round(x.reached)}
          {x.turns ? "°" : " mm"}, of {round(x.to)}
          {x.turns ? "°" : " mm"}
          {x.reason && `. ${sentence(x.reason)}`}
        </li>
      ))}
      {of.collisions.map((c) => (
        <li key={`${c.of.join()} ${c.drive ?? ""}`} className="flex gap-2 px-4 py-2">
          <Verdict of={c.verdict} />
          {sentence(c.what)}
          {c.chargedIn === "parts" && " It follows from a size of one of them."}
          {c.chargedIn === "placement" && " It follows from where one of them stands."}
        </li>
      ))}
      {of.collisions.length === 0 && <li className="px-4 py-2">Nothing is in anything.</li>}
    </ul>
  );
}

/** Which of its sizes can be changed as those of the reference can. */
function Sizes({ list }: { list: NonNullable<Of["varied"]> }) {
  const [all, setAll] = useState(false);
  const counted = list.filter((x) => x.verdict);
  const shown = all ? list : list.filter((x) => x.verdict && x.verdict !== "in");
  return (
    <>
      <p className="flex items-center gap-3 px-4 py-2 text-sm">
        <span className="mr-auto">
          {counted.filter((x) => x.verdict === "in").length} of {counted.length} sizes can be
          changed as far as those of the reference.
        </span>
        <button type="button" className="btn btn-xs" onClick={() => setAll(!all)}>
          {all ? "Show what fails" : "Show all sizes"}
        </button>
      </p>
      {shown.length > 0 && (
        <Table label="Sizes that were varied">
          <thead>
            <tr>
              <th>Size</th>
              <th>Varied</th>
              <th>Verdict</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((x) => (
              <tr key={x.size}>
                <td>{x.attempt || x.size}</td>
                <td className="whitespace-nowrap">{x.from && `${x.from} … ${x.to}`}</td>
                <td>
                  {x.verdict ? <Verdict of={x.verdict} /> : "not counted"}
                  <span className="ml-2 text-sm">
                    {x.at && `at ${x.at}: `}
                    {x.reason}
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </>
  );
}

const round = (v: number) => (Math.abs(v) < 1e-9 ? "0" : String(Math.round(v * 100) / 100));

/** What the check has to say of an assembly: its items, its joints, how it moves. */
export function Assembly({
  report,
  chosen,
  choose,
  item,
  setItem,
}: {
  report: Report;
  chosen: string | null;
  choose: (id: string | null) => void;
  /** The item that is open. */
  item: string | null;
  setItem: (item: string | null) => void;
}) {
  const of = report.assembly;
  if (!of) return null;
  const others = of.components.filter((c) => !c.id);
  return (
    <>
      <Panel title="Items">
        {of.single && (
          <p className="px-4 py-2 text-sm">
            Parts were handed in by themselves, and each was checked against its sheet. What is not
            yet handed in counts for nothing so far; hand it in next, and these parts are kept.
          </p>
        )}
        {report.attempt.notes && report.attempt.notes.length > 0 && (
          <ul aria-label="What was noted of the file" className="px-4 py-2 text-sm">
            {report.attempt.notes.map((n) => (
              <li key={n.what}>
                {sentence(n.what)} {sentence(n.remedy)}
              </li>
            ))}
          </ul>
        )}
        <Items
          of={of}
          report={report}
          chosen={chosen}
          choose={choose}
          open={item}
          setOpen={setItem}
        />
        {others.length > 0 && (
          <ul className="border-t border-base-300 text-sm">
            {others.map((c) => (
              <li key={c.attempt} className="px-4 py-1">
                {c.name}: {c.stands}
              </li>
            ))}
          </ul>
        )}
      </Panel>
      {!of.single && (
        <>
          <Panel title="Joints">
            <Joints of={of} />
          </Panel>
          <Panel title="The whole">
            <Whole of={of} />
          </Panel>
          {of.varied && of.varied.length > 0 && (
            <Panel title="Sizes varied">
              <Sizes list={of.varied} />
            </Panel>
          )}
        </>
      )}
    </>
  );
}
