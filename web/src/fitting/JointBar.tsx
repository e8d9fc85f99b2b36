import { useEffect, useEffectEvent, useState } from "react";
import { cx } from "../app/cx";
import type { Picked } from "./picking";
import type { Alike, Fitting, Joint, Measured, Offer, Preview } from "./useFitting";
import { useAsked } from "./useAsked";

type Sense = "" | "same" | "opposed";

// What a size begins with that a joint cannot be without.
const first: Record<string, string> = { lead: "1", distance: "0" };

/** What two picks can be joined by: each shows at once where things would go. */
export function JointBar({
  fitting,
  a,
  b,
  done,
}: {
  fitting: Fitting;
  a: Picked;
  b: Picked;
  done: () => void;
}) {
  const refs = [`${a.component}#${a.name}`, `${b.component}#${b.name}`] as const;
  const offers = useAsked<Offer[]>(() => fitting.offers(refs[0], refs[1]), refs.join(" "));
  const measured = useAsked<Measured[]>(
    () => fitting.measure(refs[0], refs[1]),
    `${refs.join(" ")} ${fitting.frame?.revision}`,
  );
  const [at, setAt] = useState(0);
  const [sense, setSense] = useState<Sense>("");
  const [sizes, setSizes] = useState<Record<string, string>>({});
  const [view, setView] = useState<Preview | null>(null);
  const [all, setAll] = useState(false);
  const offer = offers.value?.[at];
  const joint = (o: Offer): Omit<Joint, "id"> => ({
    kind: o.kind,
    a: o.turned ? refs[1] : refs[0],
    b: o.turned ? refs[0] : refs[1],
    ...(sense ? { sense } : {}),
    ...Object.fromEntries(o.sizes.map((n) => [n, sizes[n] || (first[n] ?? "")])),
  });
  const alike = useAsked<Alike | null>(
    () => {
      const [o] = offers.value ?? [];
      return o ? fitting.alike(joint(o)) : Promise.resolve(null);
    },
    `${refs.join(" ")} ${offers.value?.length} ${fitting.frame?.revision}`,
  ).value;
  const look = useEffectEvent(() => {
    if (!offer) return;
    fitting.preview(joint(offer)).then(
      (v) => {
        setView(v);
        fitting.show(v?.poses ?? null);
      },
      () => setView(null),
    );
  });
  useEffect(() => look(), [offer, sense, sizes]);
  const hide = useEffectEvent(() => fitting.show(null));
  useEffect(() => () => hide(), []);
  const make = async (o: Offer) => {
    const made = await fitting.act({ do: "join", join: { id: "new", ...joint(o) }, on: all });
    if (made) done();
  };
  const turn = () => {
    if (view?.sense) setSense(view.sense === "same" ? "opposed" : "same");
  };
  const press = useEffectEvent((e: KeyboardEvent) => {
    const typed = (e.target as Element).closest("input, select, textarea") !== null;
    if (e.key === "Enter" && offer) {
      e.preventDefault();
      void make(offer);
    } else if (e.key === "Escape") done();
    else if (e.key === "o" && !typed && !e.ctrlKey) turn();
  });
  useEffect(() => {
    const hear = (e: KeyboardEvent) => press(e);
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, []);
  return (
    <div
      className={cx(
        "flex flex-wrap items-center gap-2 border border-base-300 bg-base-100",
        "px-3 py-2 shadow",
      )}
      role="group"
      aria-label="Join"
    >
      <span className="text-sm">
        Join <b>{a.words}</b> to <b>{b.words}</b>:
      </span>
      {offers.error !== null && <span role="alert">{offers.error}</span>}
      {offers.value?.length === 0 && (
        <span className="text-sm">these two have no joint; pick other faces or edges</span>
      )}
      {offers.value?.map((o, i) => (
        <button
          key={o.kind}
          type="button"
          className={cx("btn btn-xs", i === at && "btn-primary")}
          title={`${o.words}; leaves ${o.frees} of six freedoms`}
          onMouseEnter={() => setAt(i)}
          onFocus={() => setAt(i)}
          onClick={() => void make(o)}
        >
          {o.kind} · {o.frees}
        </button>
      ))}
      {offer?.sizes.map((n) => (
        <label key={n} className="flex items-center gap-1">
          {n.charAt(0).toUpperCase() + n.slice(1)}
          <input
            className="input input-xs w-24"
            value={sizes[n] ?? ""}
            placeholder={first[n] ?? "0"}
            onChange={(e) => setSizes({ ...sizes, [n]: e.target.value })}
          />
        </label>
      ))}
      {view?.sense && (
        <button type="button" className="btn btn-xs" onClick={turn} title="Key: o">
          The other way round
        </button>
      )}
      {alike && alike.places > 0 && (
        <label className="flex items-center gap-1 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={all}
            onChange={(e) => setAll(e.target.checked)}
          />
          also at {alike.places === 1 ? "1 equal place" : `${alike.places} equal places`}
          {alike.fresh > 0 && `, with ${alike.fresh} ${alike.fresh === 1 ? "copy" : "copies"}`}
        </label>
      )}
      {view && (
        <span className="text-sm" role="status">
          {view.holds
            ? `${view.freedom} ${view.freedom === 1 ? "freedom" : "freedoms"} in all`
            : "cannot hold together with the joints that are there"}
        </span>
      )}
      {measured.value && (
        <span className="text-sm" data-measured>
          {measured.value.map((m) => `${m.words} ${m.value}`).join(", ")}
        </span>
      )}
      <button type="button" className="btn btn-ghost btn-xs ml-auto" onClick={done}>
        Let go
      </button>
    </div>
  );
}
