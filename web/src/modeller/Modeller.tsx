import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Me, Problem, type Schemas, ask, client } from "../api/client";
import { unitWords } from "../app/format";
import { keep as keepInBrowser, kept, letGo } from "../app/keep";
import { useTab, useTitle } from "../app/place";
import { sentence } from "../app/states";
import { Bar } from "../sketch/head";
import type { ModelDocument, Opened } from "../saving/saver";
import { SaveTrouble } from "../saving/savers";
import { type Entry, QuickEntry } from "../sketch/QuickEntry";
import { Findings, Measure, Solids, useMeasure } from "./Figures";
import { FirstHelp, Help } from "./Help";
import { ModelMenu } from "./ModelMenu";
import { Parameters } from "./Parameters";
import type { PickKind } from "./picking";
import { RouteCard } from "./RouteCard";
import { SheetBeside } from "./SheetBeside";
import { StepForm } from "./StepForm";
import {
  type Doc,
  type Form,
  type Part,
  type Step,
  candidates,
  counts,
  foundAgain,
  picked,
  same,
  titleOf,
  valueAt,
  valuesOf,
  withValue,
} from "./types";
import { useModel } from "./useModel";
import { useRebuild } from "./useRebuild";
import { Versions } from "./Versions";
import { type Look, View } from "./View";
import { cx } from "../app/cx";

interface Draft {
  step: Step;
  index: number;
  isNew: boolean;
}

const tabs = {
  steps: "Steps",
  parameters: "Sizes",
  solids: "Solids",
  measure: "Measure",
  findings: "Look over",
  versions: "Versions",
} as const;
type Tab = keyof typeof tabs;
const tabNames = Object.keys(tabs) as Tab[];

const plain: ReadonlySet<PickKind> = new Set<PickKind>(["face", "edge", "corner", "curve", "spot"]);
const allows: Record<string, PickKind[]> = {
  sketches: ["curve"],
  regions: ["region"],
  spots: ["spot"],
  spot: ["spot"],
  lines: ["curve"],
  face: ["face"],
  faces: ["face"],
  edge: ["edge"],
  edges: ["edge", "face"],
  plane: ["plane", "face"],
  planes: ["plane", "face"],
  axis: ["edge", "curve", "face"],
  points: ["corner", "spot", "edge"],
  steps: ["face"],
  solid: ["solid"],
  solids: ["solid"],
};

const groups: Record<string, string> = {
  draw: "Draw",
  material: "Material",
  edges: "Edges and walls",
  repeat: "Repeat",
  solids: "Solids",
  notes: "Notes",
};

/** The step that a face was made by, for picking steps in the view. */
const makerOf = (name: string) => (name.split("/")[0] ?? "").split(":").at(-1)?.split(".")[0] ?? "";

/** The modeller: the sheet, the part, and the route card of its steps. */
export function Modeller({ opened, me }: { opened: Opened; me: Me }) {
  const { model } = opened;
  const id = model.row.id;
  const m = useModel(opened);
  const { doc, change } = m;
  const go = useNavigate();
  const meta = useQuery({
    queryKey: ["step-forms"],
    staleTime: Infinity,
    queryFn: () => ask(client.GET("/step-forms")),
  });
  const forms = useMemo(
    () => new Map((meta.data?.forms ?? []).map((f) => [f.kind, f])),
    [meta.data],
  );
  const isSketch = useCallback((s: Step) => forms.get(s.kind)?.gives === "sketch", [forms]);
  const titles = useMemo(
    () => new Map([...forms.values()].map((f) => [f.kind, f.title.toLowerCase()])),
    [forms],
  );
  const [until, setUntil] = useState<string | null>(null);
  const [draft, setDraft] = useState<Draft | null>(() => fitting(kept<Draft>(`step/${id}`), doc));
  // A form that was left, as it was filled in.
  const [aside, setAside] = useState<Draft | null>(null);
  useEffect(() => {
    if (draft) keepInBrowser(`step/${id}`, draft);
    else letGo(`step/${id}`);
  }, [id, draft]);
  const [active, setActive] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [hover, setHover] = useState<string | null>(null);
  const [marked, setMarked] = useState<string | null>(null);
  const [tab, setTab] = useTab(tabNames, "steps");
  const [look, setLook] = useState<Look>({ shading: "shaded", perspective: false, cut: null });
  const [fit, setFit] = useState({ key: 0, chosen: false });
  const [quick, setQuick] = useState(false);
  const [help, setHelp] = useState(false);
  const [adding, setAdding] = useState(false);
  const [said, setSaid] = useState<{ bad: boolean; text: string } | null>(null);
  const [sure, setSure] = useState<{ id: string; text: string } | null>(null);
  const [trying, setTrying] = useState<{ name: string; value: number } | null>(null);
  const sheetUrl = model.row.issueId
    ? `/api/issues/${model.row.issueId}/sheet`
    : model.row.exerciseId
      ? `/api/exercises/${model.row.exerciseId}/sheet`
      : null;
  const [sheet, setSheet] = useState<"away" | "beside" | "over">(
    sheetUrl !== null && window.innerWidth >= 1100 ? "beside" : "away",
  );

  // The states to show: with the step that is being edited, and before it.
  const withDraft = useMemo<Doc>(
    () =>
      draft
        ? {
            ...doc,
            steps: draft.isNew
              ? doc.steps.toSpliced(draft.index, 0, draft.step)
              : doc.steps.with(draft.index, draft.step),
          }
        : doc,
    [doc, draft],
  );
  const place = draft?.index;
  const before = useMemo<Doc | null>(
    () => (place === undefined ? null : { ...doc, steps: doc.steps.slice(0, place) }),
    [doc, place],
  );
  const set = useMemo(() => {
    if (!trying) return undefined;
    const dim = doc.parameters.find((p) => p.name === trying.name);
    return dim ? { [trying.name]: String(Number(trying.value.toPrecision(8))) } : undefined;
  }, [trying, doc.parameters]);
  const built = until !== null && doc.steps.some((s) => s.id === until) ? until : undefined;
  const main = useRebuild(id, withDraft, draft ? draft.step.id : built, set);
  const earlier = useRebuild(id, before);
  // A chip of the form names something of the part as it is before the step: it is shown there.
  const [peeking, setPeeking] = useState(false);
  const peek = useCallback((key: string | null) => {
    setPeeking(key !== null);
    setHover(key);
  }, []);
  const part: Part | undefined = draft && (active !== null || peeking) ? earlier.part : main.part;

  // Faces and edges are chosen by their numbers, which another rebuild gives anew.
  const last = useRef<Part | undefined>(undefined);
  useEffect(() => {
    const [old, now] = [last.current, main.part];
    last.current = now;
    if (old && now && old !== now) setChosen((c) => (c.size > 0 ? foundAgain(c, old, now) : c));
  }, [main.part]);

  const form = draft ? forms.get(draft.step.kind) : undefined;
  const field = form?.fields.find((f) => f.path === active);
  const list = useMemo(
    () => (draft && field ? candidates(field.kind, earlier.part, draft.step) : []),
    [draft, field, earlier.part],
  );

  const shownChosen = useMemo<ReadonlySet<string>>(() => {
    if (!draft || !field) return draft ? new Set() : chosen;
    const values = valuesOf(field.kind, valueAt(draft.step, field.path));
    return new Set(list.filter((c) => values.some((v) => same(v, c.value))).map((c) => c.key));
  }, [draft, field, list, chosen]);

  const allowed = useMemo<ReadonlySet<PickKind>>(
    () => (field ? new Set(allows[field.kind] ?? []) : draft ? new Set<PickKind>() : plain),
    [field, draft],
  );

  const used = useMemo(
    () =>
      new Set(
        doc.steps.flatMap((s) =>
          [s.sketch, s.path, ...((s.sections as string[] | undefined) ?? [])].filter(
            (x): x is string => typeof x === "string",
          ),
        ),
      ),
    [doc.steps],
  );
  const shown = useMemo(() => {
    const out = new Set<string>();
    for (const s of doc.steps)
      if (isSketch(s) && (!used.has(s.id) || marked === s.id)) out.add(s.id);
    if (draft) {
      for (const k of [draft.step.sketch, draft.step.path]) if (typeof k === "string") out.add(k);
      if (field && ["sketches", "axis", "points"].includes(field.kind))
        for (const s of doc.steps) if (isSketch(s)) out.add(s.id);
    }
    return [...out].join(" ");
  }, [isSketch, doc.steps, used, marked, draft, field]);
  const sketches = useMemo<ReadonlySet<string>>(
    () => new Set(shown.split(" ").filter(Boolean)),
    [shown],
  ); // the same set as long as it holds the same
  const planes =
    (field?.kind === "plane" || field?.kind === "planes" || (form?.gives === "plane" && !active)) ??
    false;

  const picks = useMemo(
    () =>
      [...chosen].flatMap((k): Schemas["Ref"][] => {
        const [kind, i] = k.split(":");
        if (kind === "face") return [k];
        const there =
          kind === "corner"
            ? part?.corners[Number(i)]
            : kind === "edge"
              ? part?.edges[Number(i)]
              : undefined;
        return there ? [`${kind}:${there.index}`] : [];
      }),
    [chosen, part],
  );
  const measuring = useMeasure(id, doc, built, tab === "measure" && !draft ? picks : []);

  const pick = useCallback(
    (key: string | null, more: boolean) => {
      if (draft && field && earlier.part) {
        if (!key) return;
        let k = key;
        if (field.kind === "sketches") k = `sketch:${key.slice(6).split(".")[0] ?? ""}`;
        if (field.kind === "steps")
          k = `step:${makerOf(earlier.part.faces[Number(key.slice(5))]?.name ?? "")}`;
        const c = list.find((x) => x.key === k);
        if (!c) {
          setSaid({
            bad: false,
            text: "that cannot go here; pick something that lights up with a name in the list",
          });
          return;
        }
        setSaid(null);
        const many = picked[field.kind]?.many ?? false;
        const values = valuesOf(field.kind, valueAt(draft.step, field.path));
        const has = values.some((v) => same(v, c.value));
        const next = has
          ? values.filter((v) => !same(v, c.value))
          : many
            ? [...values, c.value].slice(-(picked[field.kind]?.most ?? Infinity))
            : [c.value];
        setDraft({ ...draft, step: withValue(draft.step, field.path, many ? next : next[0]) });
        if (!many && !has) setActive(null);
        return;
      }
      if (draft) return;
      setChosen((old) => {
        if (!key) return more ? old : new Set();
        const next = new Set(more ? old : []);
        if (old.has(key)) next.delete(key);
        else next.add(key);
        return next;
      });
    },
    [draft, field, list, earlier.part],
  );

  // What does not count any more, after a choice has been changed, goes: it would be looked for.
  const setStep = useCallback(
    (step: Step) =>
      setDraft((d) => {
        if (!d) return d;
        let next = step;
        for (const x of forms.get(step.kind)?.fields ?? [])
          if (counts(x, d.step) && !counts(x, step) && valueAt(step, x.path) !== undefined)
            next = withValue(next, x.path, undefined);
        return { ...d, step: next };
      }),
    [forms],
  );

  const close = useCallback(() => {
    setPeeking(false);
    setDraft(null);
    setActive(null);
    setSaid(null);
  }, []);
  /** Leaves the form of a step; what was filled in can be opened again. */
  const leave = useCallback(() => {
    setAside(draft && JSON.stringify(withDraft) !== JSON.stringify(doc) ? draft : null);
    close();
  }, [draft, withDraft, doc, close]);

  const edit = useCallback(
    (stepId: string) => {
      const index = doc.steps.findIndex((s) => s.id === stepId);
      const s = doc.steps[index];
      if (!s) return;
      setChosen(new Set());
      setTrying(null);
      setTab("steps");
      setMarked(stepId);
      setActive(null);
      setDraft({ step: s, index, isNew: false });
    },
    [doc.steps, setTab],
  );

  const drawSketch = useCallback(
    async (stepId: string) => {
      if (await m.settle()) void go(`/models/${id}/sketches/${stepId}`);
    },
    [m, go, id],
  );

  const begin = useCallback(
    async (kind: string, sketch?: string) => {
      const f = forms.get(kind);
      if (!f) return;
      setAdding(false);
      setTrying(null);
      setTab("steps");
      let fresh: string;
      try {
        fresh =
          (
            await ask(
              client.POST("/models/{id}/edit", {
                params: { path: { id } },
                body: { document: doc, command: { do: "fresh", kind } },
              }),
            )
          ).id ?? "";
      } catch (e) {
        setSaid({ bad: true, text: e instanceof Problem ? e.what : "the step cannot be begun" });
        return;
      }
      let step: Step = { id: fresh, kind };
      const left = new Set(chosen);
      const index = built ? doc.steps.findIndex((s) => s.id === built) + 1 : doc.steps.length;
      const earlierSketches = doc.steps.slice(0, index).filter(isSketch);
      const free = earlierSketches.filter((s) => !used.has(s.id));
      for (const x of f.fields) {
        if (x.default && counts(x, step)) step = withValue(step, x.path, x.default);
        if (x.kind === "sketch" && (!x.optional || free.length > 0)) {
          const s =
            earlierSketches.find((q) => q.id === (sketch ?? marked)) ??
            free.at(-1) ??
            earlierSketches.at(-1);
          if (s) step = withValue(step, x.path, s.id);
        }
        if (["length", "angle", "number"].includes(x.kind) && !x.optional && counts(x, step)) {
          const length =
            doc.unit === "in"
              ? f.group === "edges"
                ? "0.1"
                : "0.5"
              : f.group === "edges"
                ? "2"
                : "10";
          step = withValue(
            step,
            x.path,
            x.kind === "length" ? length : x.kind === "angle" ? "90 deg" : (x.first ?? "3"),
          );
        }
        // What is chosen already goes into the first field that it fits.
        if (x.kind in picked && counts(x, step) && part) {
          const c = candidates(x.kind, part, step).filter(
            (q) =>
              left.has(q.key) &&
              (x.kind !== "edges" ||
                q.key.startsWith("edge:") ||
                [...chosen].every((k) => k.startsWith("face:"))),
          );
          if (c.length > 0 && !["regions", "spots"].includes(x.kind)) {
            const many = picked[x.kind]?.many;
            step = withValue(step, x.path, many ? c.map((q) => q.value) : c[0]?.value);
            for (const q of many ? c : c.slice(0, 1)) left.delete(q.key);
          }
        }
      }
      const missing = f.fields.find(
        (x) =>
          x.kind in picked &&
          !x.optional &&
          x.kind !== "regions" &&
          counts(x, step) &&
          valuesOf(x.kind, valueAt(step, x.path)).length === 0,
      );
      setChosen(new Set());
      setDraft({ step, index, isNew: true });
      setActive(missing?.path ?? null);
    },
    [forms, isSketch, id, doc, built, used, marked, part, chosen, setTab],
  );

  // Sent here from a drawing board to go on with its sketch.
  const [query, setQuery] = useSearchParams();
  const asked = query.get("begin");
  const wanted = query.get("sketch");
  const answered = useRef(false);
  useEffect(() => {
    if (!asked || answered.current || !forms.has(asked) || !main.part) return;
    answered.current = true;
    setQuery(
      (q) => {
        const next = new URLSearchParams(q);
        next.delete("begin");
        next.delete("sketch");
        return next;
      },
      { replace: true },
    );
    void begin(asked, wanted ?? undefined);
  }, [asked, wanted, forms, main.part, begin, setQuery]);

  const keep = useCallback(async () => {
    if (!draft) return;
    const word = draft.step.name || (titles.get(draft.step.kind) ?? draft.step.kind);
    const { step, isNew } = draft;
    if (isSketch(step) && isNew) {
      if (!step.plane) {
        setSaid({ bad: true, text: "choose the plane of the sketch first" });
        setActive("plane");
        return;
      }
      const next = {
        ...withDraft,
        steps: withDraft.steps.map((s) =>
          s.id === step.id ? { ...s, entities: [], constraints: [] } : s,
        ),
      };
      close();
      if (await m.settle(next, `${word} added`)) void go(`/models/${id}/sketches/${step.id}`);
      return;
    }
    if (JSON.stringify(withDraft) !== JSON.stringify(doc))
      change(withDraft, isNew ? `${word} added` : `${word} changed`);
    setMarked(step.id);
    if (isNew && built) setUntil(step.id);
    setAside(null);
    close();
  }, [draft, isSketch, titles, withDraft, doc, change, close, m, go, id, built]);

  const command = useCallback(
    async (c: Schemas["ModelCommand"], what: string) => {
      try {
        const out = await ask(
          client.POST("/models/{id}/edit", {
            params: { path: { id } },
            body: { document: doc, command: c },
          }),
        );
        change(out.document as unknown as Doc, what);
        setSaid({ bad: false, text: out.said });
        return true;
      } catch (e) {
        const p = e instanceof Problem ? e : new Problem("that could not be done", "try again", 0);
        if (c.do === "remove" && !c.along && p.code === "builds-on-it")
          setSure({ id: c.id ?? "", text: p.what });
        else setSaid({ bad: true, text: p.remedy ? `${p.what}; ${p.remedy}` : p.what });
        return false;
      }
    },
    [id, doc, change],
  );

  const nameOf = useCallback(
    (s: string) => {
      const step = doc.steps.find((x) => x.id === s);
      return step ? titleOf(step, main.part) : s;
    },
    [doc.steps, main.part],
  );
  const remove = useCallback(
    (s: string, along = false) => {
      setSure(null);
      void command({ do: "remove", id: s, along }, `${nameOf(s)} removed`);
      setMarked(null);
    },
    [command, nameOf],
  );
  const turn = useCallback(
    (s: string) => {
      const off = !doc.steps.find((x) => x.id === s)?.off;
      change(
        { ...doc, steps: doc.steps.map((x) => (x.id === s ? withValue(x, "off", off) : x)) },
        `${nameOf(s)} turned ${off ? "off" : "on"}`,
      );
    },
    [doc, change, nameOf],
  );

  const attempt = useCallback(
    (name: string, value: number | null) => {
      if (value === null) setTrying(null);
      else if (Number.isNaN(value)) {
        const row = main.part?.parameters.find((r) => r.name === name);
        if (trying && row) {
          const unit = row.dim === "length" ? ` ${doc.unit}` : row.dim === "angle" ? " deg" : "";
          change(
            {
              ...doc,
              parameters: doc.parameters.map((p) =>
                p.name === name
                  ? { ...p, value: `${Number(trying.value.toPrecision(6))}${unit}` }
                  : p,
              ),
            },
            `parameter ${name}`,
          );
        }
        setTrying(null);
      } else setTrying({ name, value });
    },
    [main.part, trying, doc, change],
  );

  // Pulling the handle writes the main size, where that is a plain number.
  const pulled = useRef<{ path: string; start: number } | null>(null);
  const handle = draft ? main.part?.handle : undefined;
  const mainPath = handle?.path ?? "";
  const mainValue = draft ? String(valueAt(draft.step, mainPath) ?? "") : "";
  const pullable =
    draft !== null &&
    active === null &&
    /^\s*-?\d+(\.\d+)?\s*(mm|cm|m|in|deg)?\s*$/.test(mainValue);
  const factor = handle?.angle
    ? 1
    : ({ mm: 1, cm: 10, m: 1000, in: 25.4 }[/[a-z]+/.exec(mainValue)?.[0] ?? doc.unit] ?? 1);
  const pull = useCallback(
    (by: number, done: boolean) => {
      if (!pulled.current) pulled.current = { path: mainPath, start: Number.parseFloat(mainValue) };
      const coarse = factor === 25.4 ? 64 : 2; // sixty-fourths of an inch, half millimetres
      const v = Math.round((pulled.current.start + by / factor) * coarse) / coarse;
      const unit = /[a-z]+/.exec(mainValue)?.[0];
      setDraft((d) =>
        d && (v > 0 || mainPath.includes("offset"))
          ? { ...d, step: withValue(d.step, mainPath, `${v}${unit ? ` ${unit}` : ""}`) }
          : d,
      );
      if (done) pulled.current = null;
    },
    [mainPath, mainValue, factor],
  );

  const line = useMemo<[number[], number[]] | undefined>(
    () =>
      tab === "measure" && measuring.data?.from && measuring.data.to
        ? [measuring.data.from, measuring.data.to]
        : undefined,
    [tab, measuring.data],
  );
  const setShading = useCallback(
    (shading: Look["shading"]) => setLook((l) => ({ ...l, shading })),
    [],
  );
  const fitNow = useCallback(
    (onChosen: boolean) => setFit((f) => ({ key: f.key + 1, chosen: onChosen })),
    [],
  );

  const entries = useMemo<Entry[]>(() => {
    const out: Entry[] = [...forms.values()].map((f) => ({
      name: `New ${f.title.toLowerCase()}`,
      note: f.what,
      run: () => void begin(f.kind),
    }));
    for (const s of doc.steps) {
      const n = titleOf(s, main.part);
      if (isSketch(s)) out.push({ name: `Open sketch ${n}`, run: () => void drawSketch(s.id) });
      out.push(
        { name: `Change ${n}`, note: titles.get(s.kind), run: () => edit(s.id) },
        { name: `Turn ${s.off ? "on" : "off"} ${n}`, run: () => turn(s.id) },
        { name: `Remove ${n}`, run: () => remove(s.id) },
        { name: `Build up to ${n}`, run: () => setUntil(s.id) },
      );
      const i = doc.steps.indexOf(s);
      out.push(
        {
          name: `Move ${n} earlier`,
          run: () => void command({ do: "move", id: s.id, to: i - 1 }, `${n} moved`),
        },
        {
          name: `Move ${n} later`,
          run: () => void command({ do: "move", id: s.id, to: i + 1 }, `${n} moved`),
        },
      );
    }
    out.push(
      { name: "Undo", note: m.undoes, key: "Ctrl Z", run: m.undo },
      { name: "Redo", note: m.redoes, key: "Ctrl Y", run: m.redo },
      { name: "Build all", run: () => setUntil(null) },
      { name: "Fit the part", key: "Home", run: () => fitNow(false) },
      { name: "Fit what is chosen", key: "Shift Home", run: () => fitNow(true) },
      { name: "Shaded", run: () => setShading("shaded") },
      { name: "Hidden lines", run: () => setShading("hidden") },
      { name: "Transparent", run: () => setShading("clear") },
      {
        name: look.perspective ? "Parallel view" : "Perspective view",
        run: () => setLook({ ...look, perspective: !look.perspective }),
      },
      ...([0, 1, 2] as const).map((axis) => ({
        name: `Section across ${"XYZ"[axis] ?? ""}`,
        run: () => setLook({ ...look, cut: { axis, at: 0.5, flip: false } }),
      })),
      { name: "No section", run: () => setLook({ ...look, cut: null }) },
      ...Object.entries(tabs).map(([k, n]) => ({
        name: `Show: ${n}`,
        run: () => setTab(k as Tab),
      })),
      { name: "Keys and help", key: "?", run: () => setHelp(true) },
    );
    if (sheetUrl)
      out.push(
        { name: "Sheet beside the part", run: () => setSheet("beside") },
        { name: "Sheet over the part", run: () => setSheet("over") },
        { name: "Put the sheet away", run: () => setSheet("away") },
        {
          name: "Sheet in a window of its own",
          run: () => window.open(`/models/${id}/sheet`, `sheet-${id}`, "width=1000,height=720"),
        },
      );
    return out;
  }, [
    forms,
    isSketch,
    doc.steps,
    begin,
    drawSketch,
    titles,
    edit,
    turn,
    remove,
    command,
    m,
    fitNow,
    setShading,
    look,
    sheetUrl,
    id,
    setTab,
    main.part,
  ]);

  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const typing =
        e.target instanceof HTMLElement && e.target.closest("input, select, textarea") !== null;
      const plainKeys: Record<string, () => void> = {
        q: () => setQuick(true),
        "?": () => setHelp(true),
        Home: () => fitNow(e.shiftKey),
        Delete: () => marked && !draft && remove(marked),
        Enter: () => {
          if (marked && !draft && !(e.target instanceof HTMLButtonElement)) edit(marked);
        },
        Escape: () => {
          if (help) setHelp(false);
          else if (active) setActive(null);
          else if (draft) leave();
          else {
            setChosen(new Set());
            setSaid(null);
          }
        },
      };
      const ctrl: Record<string, () => void> = {
        z: draft ? leave : m.undo,
        y: m.redo,
        s: () => void m.save(),
      };
      const act =
        e.ctrlKey || e.metaKey
          ? ctrl[e.key]
          : typing && e.key !== "Escape"
            ? undefined
            : plainKeys[e.key];
      if (!act || quick) return;
      if (typing && (e.ctrlKey || e.metaKey) && e.key !== "s") return;
      if (e.key !== "Enter") e.preventDefault();
      act();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [marked, draft, active, help, quick, m, fitNow, remove, edit, leave]);

  useTitle(doc.name);

  const savedWords = {
    saved: "Saved",
    unsaved: "Not saved yet",
    saving: "Saving …",
    failed: "Not saved",
    stale: "Not saved",
  }[m.saving.kind];
  const failed = draft ? 0 : (main.part?.steps.filter((s) => s.failed).length ?? 0);
  const slow = main.busy && main.progress?.running && main.progress.stage !== "";
  const under = hover && part ? words(hover, part) : null;

  return (
    <div
      className="flex h-full min-h-0 flex-col"
      data-model={id}
      data-fresh={main.fresh && !main.busy}
      data-took={Math.round(main.took)}
    >
      <div
        className={cx(
          "flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-base-300",
          "bg-base-100 px-3 py-1",
        )}
      >
        <h1 className="min-w-0 truncate text-lg!" title={doc.name}>
          {doc.name}{" "}
          <span className="text-sm font-normal">
            in {unitWords[doc.unit as keyof typeof unitWords]}
          </span>
        </h1>
        <span className="w-24 shrink-0 text-sm" role="status" data-save={m.saving.kind}>
          {savedWords}
        </span>
        {failed > 0 && (
          <button
            type="button"
            className="btn btn-xs border-error"
            onClick={() => {
              setTab("steps");
              setMarked(main.part?.steps.find((s) => s.failed)?.id ?? null);
            }}
          >
            {failed === 1 ? "1 step fails" : `${failed} steps fail`}
          </button>
        )}
        <div className="ml-auto flex flex-wrap items-center gap-1">
          <button
            type="button"
            className="btn btn-xs"
            disabled={!m.undoes || draft !== null}
            title={m.undoes && `Undo: ${m.undoes}`}
            onClick={m.undo}
          >
            Undo
          </button>
          <button
            type="button"
            className="btn btn-xs"
            disabled={!m.redoes || draft !== null}
            title={m.redoes && `Redo: ${m.redoes}`}
            onClick={m.redo}
          >
            Redo
          </button>
          <select
            className="select select-xs w-28"
            aria-label="Shading"
            value={look.shading}
            onChange={(e) => setShading(e.target.value as Look["shading"])}
          >
            <option value="shaded">shaded</option>
            <option value="hidden">hidden lines</option>
            <option value="clear">transparent</option>
          </select>
          <select
            className="select select-xs w-24"
            aria-label="Projection"
            value={look.perspective ? "perspective" : "parallel"}
            onChange={(e) => setLook({ ...look, perspective: e.target.value === "perspective" })}
          >
            <option>parallel</option>
            <option>perspective</option>
          </select>
          <select
            className="select select-xs w-28"
            aria-label="Section"
            value={look.cut ? String(look.cut.axis) : ""}
            onChange={(e) =>
              setLook({
                ...look,
                cut:
                  e.target.value === ""
                    ? null
                    : {
                        axis: Number(e.target.value) as 0 | 1 | 2,
                        at: look.cut?.at ?? 0.5,
                        flip: look.cut?.flip ?? false,
                      },
              })
            }
          >
            <option value="">no section</option>
            <option value="0">across X</option>
            <option value="1">across Y</option>
            <option value="2">across Z</option>
          </select>
          <button type="button" className="btn btn-xs" onClick={() => fitNow(chosen.size > 0)}>
            Fit
          </button>
          {sheetUrl && (
            <select
              className="select select-xs w-28"
              aria-label="Sheet"
              value={sheet}
              onChange={(e) => {
                if (e.target.value === "window")
                  window.open(`/models/${id}/sheet`, `sheet-${id}`, "width=1000,height=720");
                else setSheet(e.target.value as typeof sheet);
              }}
            >
              <option value="away">no sheet</option>
              <option value="beside">sheet beside</option>
              <option value="over">sheet over</option>
              <option value="window">sheet in a window</option>
            </select>
          )}
          <ModelMenu
            model={model}
            me={me}
            doc={doc}
            settle={() => m.settle()}
            take={change}
            look={() => setTab("findings")}
          />
          <button type="button" className="btn btn-primary btn-xs" onClick={() => setQuick(true)}>
            Do … <kbd className="kbd kbd-xs text-base-content">q</kbd>
          </button>
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => setHelp(true)}
            aria-label="Keys and help"
          >
            ?
          </button>
        </div>
      </div>
      <div className="relative flex min-h-0 flex-1">
        {sheet === "beside" && sheetUrl && (
          <section className="w-[28%] min-w-60 border-r border-base-300" aria-label="Sheet">
            <SheetBeside model={id} url={sheetUrl} />
          </section>
        )}
        <section className="relative min-w-0 flex-1" aria-label="Part">
          <View
            part={part}
            chosen={shownChosen}
            hover={hover}
            setHover={setHover}
            pick={pick}
            allowed={allowed}
            sketches={sketches}
            planes={planes}
            look={look}
            fit={fit}
            line={line}
            pull={pullable ? pull : undefined}
          />
          <div
            className={cx(
              "pointer-events-none absolute top-2 right-2 left-2 z-10 flex flex-col",
              "items-start gap-1 *:pointer-events-auto empty:hidden",
            )}
          >
            {look.cut && (
              <Bar>
                <span className="flex items-center gap-2">
                  Section
                  <input
                    type="range"
                    className="range range-xs w-40"
                    aria-label="Place of the section"
                    min={0.005}
                    max={0.995}
                    step={0.005}
                    value={look.cut.at}
                    onChange={(e) =>
                      look.cut &&
                      setLook({ ...look, cut: { ...look.cut, at: Number(e.target.value) } })
                    }
                  />
                  <button
                    type="button"
                    className="btn btn-xs"
                    onClick={() =>
                      look.cut && setLook({ ...look, cut: { ...look.cut, flip: !look.cut.flip } })
                    }
                  >
                    Other half
                  </button>
                </span>
              </Bar>
            )}
            {field && (
              <Bar>
                Pick for “{field.label}”{field.hint && `: ${field.hint}`}.{" "}
                <button type="button" className="btn btn-xs" onClick={() => setActive(null)}>
                  Done picking
                </button>
              </Bar>
            )}
            {slow && (
              <Bar>
                <span className="flex items-center gap-2">
                  <span className="loading loading-ring loading-xs" />
                  Rebuilding {main.progress?.stage}{" "}
                  <progress className="progress w-32" value={main.progress?.done ?? 0} max={1} />
                  <button type="button" className="btn btn-xs" onClick={main.cancel}>
                    Cancel
                  </button>
                </span>
              </Bar>
            )}
            {main.error && !draft && (
              <Bar bad>
                {sentence(main.error.what)} {main.error.remedy && sentence(main.error.remedy)}{" "}
                <button type="button" className="btn btn-xs" onClick={main.retry}>
                  Try again
                </button>
              </Bar>
            )}
            <SaveTrouble opened={opened} newest={() => m.doc as unknown as ModelDocument} />
            {aside && !draft && fitting(aside, doc) && (
              <Bar>
                {sentence(
                  (aside.step.name || titles.get(aside.step.kind) || aside.step.kind) +
                    " is left as you filled it in",
                )}{" "}
                <button
                  type="button"
                  className="btn btn-xs"
                  onClick={() => {
                    setDraft(aside);
                    setAside(null);
                  }}
                >
                  Open it again
                </button>{" "}
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  onClick={() => setAside(null)}
                >
                  Let it go
                </button>
              </Bar>
            )}
            {sure && (
              <Bar bad>
                {sentence(sure.text)}{" "}
                <button type="button" className="btn btn-xs" onClick={() => remove(sure.id, true)}>
                  Remove them too
                </button>{" "}
                <button type="button" className="btn btn-xs" onClick={() => setSure(null)}>
                  Keep all
                </button>
              </Bar>
            )}
            {said && (
              <Bar bad={said.bad}>
                {sentence(said.text)}{" "}
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  aria-label="Close the message"
                  onClick={() => setSaid(null)}
                >
                  ×
                </button>
              </Bar>
            )}
          </div>
          <p
            className="pointer-events-none absolute bottom-2 left-2 max-w-[60%] truncate text-xs"
            data-hover={hover ?? ""}
          >
            {under ?? (main.busy ? "…" : "")}
          </p>
          {sheet === "over" && sheetUrl && (
            <section
              className={cx(
                "absolute top-10 left-4 z-20 h-[62%] w-[58%] min-w-72 resize",
                "overflow-hidden border-2 border-neutral bg-base-100 shadow-lg",
              )}
              aria-label="Sheet over the part"
            >
              <button
                type="button"
                className="btn btn-xs absolute top-1 right-1 z-10"
                onClick={() => setSheet("away")}
              >
                Put away
              </button>
              <SheetBeside model={id} url={sheetUrl} />
            </section>
          )}
          <FirstHelp />
        </section>
        <aside
          className={cx(
            "will-change-transform flex w-80 shrink-0 flex-col border-l",
            "border-base-300 bg-base-100",
          )}
          aria-label="Route card"
        >
          {draft && form ? (
            <StepForm
              form={form}
              step={draft.step}
              isNew={draft.isNew}
              change={setStep}
              before={earlier.part}
              after={main.fresh ? main.part : undefined}
              sketches={doc.steps.slice(0, draft.index).flatMap((s) => {
                const gives = forms.get(s.kind)?.gives;
                return gives === "sketch" || gives === "path"
                  ? [{ id: s.id, name: titleOf(s, main.part), gives }]
                  : [];
              })}
              active={active}
              activate={setActive}
              hover={peek}
              busy={main.busy}
              error={main.error}
              keep={() => void keep()}
              cancel={leave}
            />
          ) : (
            <>
              <div role="tablist" className="grid grid-cols-3 border-b border-base-300 text-sm">
                {Object.entries(tabs).map(([k, n]) => (
                  <button
                    key={k}
                    type="button"
                    role="tab"
                    aria-selected={tab === k}
                    className={cx(
                      "tab h-7 border-base-300",
                      tab === k && "tab-active bg-base-300 font-semibold",
                    )}
                    onClick={() => setTab(k as Tab)}
                  >
                    {n}
                  </button>
                ))}
              </div>
              {tab === "steps" ? (
                <>
                  <RouteCard
                    doc={doc}
                    part={main.part}
                    fresh={main.fresh}
                    forms={forms}
                    marked={marked}
                    mark={(s) => setMarked(marked === s ? null : s)}
                    until={until}
                    build={setUntil}
                    edit={edit}
                    draw={(s) => void drawSketch(s)}
                    move={(s, to) => void command({ do: "move", id: s, to }, `${nameOf(s)} moved`)}
                    turn={turn}
                    remove={(s) => remove(s)}
                  />
                  <div className="relative border-t border-base-300 p-2">
                    {adding && (
                      <NewStep
                        forms={[...forms.values()]}
                        begin={(k) => void begin(k)}
                        close={() => setAdding(false)}
                      />
                    )}
                    <div className="flex gap-1">
                      <button
                        type="button"
                        className="btn btn-sm btn-primary flex-1"
                        aria-expanded={adding}
                        onClick={() => setAdding(!adding)}
                      >
                        New step …
                      </button>
                      {[...forms.values()].map(
                        (f) =>
                          f.quick && (
                            <button
                              key={f.kind}
                              type="button"
                              className="btn btn-sm"
                              disabled={
                                f.fields.some((x) => x.kind === "sketch" && !x.optional) &&
                                !doc.steps.some(isSketch)
                              }
                              onClick={() => void begin(f.kind)}
                            >
                              {f.title}
                            </button>
                          ),
                      )}
                    </div>
                  </div>
                </>
              ) : (
                <div className="min-h-0 flex-1 overflow-y-auto">
                  {tab === "parameters" && (
                    <Parameters
                      id={id}
                      doc={doc}
                      part={main.part}
                      error={main.error}
                      change={change}
                      trying={trying}
                      attempt={attempt}
                    />
                  )}
                  {tab === "solids" && (
                    <Solids
                      doc={doc}
                      part={main.part}
                      fresh={main.fresh && !main.busy}
                      materials={meta.data?.materials ?? []}
                      change={change}
                    />
                  )}
                  {tab === "measure" && <Measure picks={picks} q={measuring} />}
                  {tab === "findings" && (
                    <Findings
                      id={id}
                      doc={doc}
                      part={main.part}
                      go={(s) => {
                        setMarked(s);
                        setTab("steps");
                      }}
                    />
                  )}
                  {tab === "versions" && <Versions id={id} take={change} />}
                </div>
              )}
            </>
          )}
        </aside>
        {quick && <QuickEntry entries={entries} close={() => setQuick(false)} />}
        {help && <Help close={() => setHelp(false)} />}
      </div>
      {model.row.issueId && (
        <p className="sr-only">
          <Link to={`/issues/${model.row.issueId}`}>Its exercise</Link>
        </p>
      )}
    </div>
  );
}

/** The form of a step that was left, where its model still has the place for it. */
function fitting(draft: Draft | null | undefined, doc: Doc): Draft | null {
  if (!draft) return null;
  const there = doc.steps[draft.index]?.id === draft.step.id;
  const fits = draft.isNew
    ? draft.index <= doc.steps.length && !doc.steps.some((s) => s.id === draft.step.id)
    : there;
  return fits ? draft : null;
}

/** What is under the pointer, in words. */
function words(key: string, part: Part): string {
  const [kind = "", rest = ""] = key.split(":");
  const i = Number(rest);
  if (kind === "face") return part.faces[i]?.words ?? "";
  if (kind === "edge") return part.edges[i]?.words ?? "";
  if (kind === "corner") return "corner";
  if (kind === "solid") return `solid ${part.solids.find((s) => s.of === rest)?.name ?? rest}`;
  if (kind === "datum") return `${rest} plane`;
  return rest;
}

/** The kinds of steps by what they are for. */
function NewStep({
  forms,
  begin,
  close,
}: {
  forms: Form[];
  begin: (kind: string) => void;
  close: () => void;
}) {
  return (
    <div
      className={cx(
        "absolute right-2 bottom-full left-2 z-20 mb-1 max-h-[70vh]",
        "overflow-y-auto border-2 border-neutral bg-base-100 p-2 shadow-lg",
      )}
      role="dialog"
      aria-label="New step"
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          close();
        }
      }}
    >
      {Object.entries(groups).map(([g, title]) => (
        <section key={g} className="mb-1">
          <h3 className="text-xs font-semibold opacity-80">{title}</h3>
          <div className="grid grid-cols-2 gap-0.5">
            {forms
              .filter((f) => f.group === g)
              .map((f) => (
                <button
                  key={f.kind}
                  type="button"
                  className="btn btn-ghost btn-xs justify-start"
                  title={f.what}
                  onClick={() => begin(f.kind)}
                >
                  {f.title}
                </button>
              ))}
          </div>
        </section>
      ))}
    </div>
  );
}
