import { useCallback, useEffect, useEffectEvent, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { type Schemas } from "../api/client";
import { useAskBeforeLeaving } from "../app/keep";
import { useTab } from "../app/place";
import { sentence } from "../app/states";
import { SheetView } from "../sheet/SheetView";
import { type Backdrop, Canvas } from "./Canvas";
import type { Finding, Offer, SketchDocument, Spot } from "./core/types";
import { type Opened } from "../saving/saver";
import { SaveTrouble } from "../saving/savers";
import { Commands, type Switch } from "./Commands";
import { Bar, Files, Saved } from "./head";
import { Keys } from "./Keys";
import { type Mode, type Prompt, useTurns } from "./modes";
import { Offers } from "./Offers";
import { Constraints, Findings } from "./panels";
import { Parameters } from "./Parameters";
import type { Look } from "./Picture";
import { ToolRail } from "./ToolRail";
import { useFiles } from "./useFiles";
import { useKeys } from "./useKeys";
import { useSave } from "./useSave";
import { useSketch } from "./useSketch";
import { useWiggle } from "./useWiggle";
import { ValueField } from "./ValueField";
import { cx } from "../app/cx";
import { useChanged } from "../app/useChanged";

interface Props {
  opened: Opened;
  step: string;
  placed: Schemas["PlacedSketch"];
}

type Tab = "findings" | "constraints" | "parameters";

/** The sketch editor: the drawing board, the sheet beside it, and what there is to say. */
export function SketchEditor({ opened, step, placed }: Props) {
  const { model } = opened;
  const start = useMemo(
    () =>
      ({
        unit: placed.unit,
        parameters: placed.parameters,
        entities: placed.entities,
        constraints: placed.constraints,
        elsewhere: placed.elsewhere,
      }) satisfies SketchDocument,
    [placed],
  );
  const go = useNavigate();
  const turns = useTurns();
  const { mode, now, put, change, inTurn } = turns;
  const { state: saving, save, take, leaving, body } = useSave(opened, step);
  const keeping = useMemo(
    () => ({ take, leaving, settled: () => inTurn(() => undefined) }),
    [take, leaving, inTurn],
  );
  const sk = useSketch(start, keeping);
  const { untaken } = sk;
  useAskBeforeLeaving(useCallback(() => untaken() || turns.busy(), [untaken, turns]));
  const { engine, frame, chosen, choose, act, say, word, lists } = sk;
  const [tab, setTab] = useTab<Tab>(["findings", "constraints", "parameters"], "findings");
  const [finding, setFinding] = useState<string | null>(null);
  const [prompt, setPrompt] = useState<{ prompt: Prompt; at: Spot } | null>(null);
  const [quick, setQuick] = useState(false);
  const [help, setHelp] = useState(false);
  const [quiet, setQuiet] = useState(false);
  const [marks, setMarks] = useState(true);
  const [free, setFree] = useState(false);
  const [sides, setSides] = useState(6);
  const [fitKey, setFitKey] = useState(0);
  const [goTo, setGoTo] = useState<Spot | null>(null);
  const [cursor, setCursor] = useState<Spot | null>(null);
  const [offers, setOffers] = useState<Offer[]>([]);
  const [offered, setOffered] = useState(false);
  const [called, setCalled] = useState<string[]>([]);
  const [looseAt, setLooseAt] = useState(-1);
  const sheetOf = model.row.issueId
    ? `/api/issues/${model.row.issueId}/sheet`
    : model.row.exerciseId
      ? `/api/exercises/${model.row.exerciseId}/sheet`
      : null;
  const [sheet, setSheet] = useState(sheetOf !== null && window.innerWidth >= 1200);
  const anchor = useRef<Spot>({ x: 500, y: 300 });
  const host = useRef<HTMLDivElement>(null);
  const whole = useCallback(() => setFitKey((k) => k + 1), []);
  const { wiggle, start: startWiggle } = useWiggle(sk);
  const files = useFiles(sk, placed.name || step, whole);
  const { save: saveFile, open: openFile } = files;

  const setMode = useCallback(
    (m: Mode) => {
      change(m);
      setCursor(null);
      if (m.kind !== "choose") choose([]);
    },
    [change, choose],
  );

  const backdrop = useMemo<Backdrop[]>(
    () =>
      placed.edges.map((edge) => ({
        edge: { ...edge, faces: edge.faces as [string, string] }, // two, as the contract has it
        path: edge.run.map((p, i) => `${i === 0 ? "M" : "L"}${p.x} ${-p.y}`).join(""),
      })),
    [placed.edges],
  );

  const ground = useMemo<[number, number, number, number] | null>(() => {
    const all = placed.edges.flatMap((e) => e.run);
    if (all.length === 0) return null;
    const [x0, x1] = [Math.min(...all.map((p) => p.x)), Math.max(...all.map((p) => p.x))];
    const [y0, y1] = [Math.min(...all.map((p) => -p.y)), Math.max(...all.map((p) => -p.y))];
    return [x0, y0, x1 - x0, y1 - y0];
  }, [placed.edges]);

  // What can be put on what is chosen.
  const entities = useMemo(
    () => chosen.filter((id) => !frame?.constraints.some((k) => k.id === id)),
    [chosen, frame],
  );
  if (useChanged(engine, entities, frame?.revision)) {
    setOffered(false);
    setCalled([]);
    if (!engine || entities.length === 0) setOffers([]);
  }

  // What is typed from now on goes into the field that opens; one that has no field yet waits for a
  // choice.
  const typed = useRef<string | null>(null);
  const [waiting, setWaiting] = useState<string | null>(null);
  const ask = useCallback((p: Prompt, at?: Spot) => {
    if (p.value !== "" && !p.preset) typed.current = p.value;
    setPrompt({ prompt: p, at: at ?? anchor.current });
  }, []);
  const takeTyped = useCallback(() => {
    const text = typed.current;
    typed.current = null;
    return text;
  }, []);
  const typeMore = useCallback((text: string) => {
    typed.current = text;
    setWaiting((w) => (w === null ? null : text));
  }, []);
  const dropTyped = useCallback(() => {
    typed.current = null;
    setWaiting(null);
    setPrompt(null);
  }, []);

  const openSize = useCallback(
    (text: string, offers: Offer[]) => {
      const sizes = offers.filter((o) => o.size);
      if (sizes.length === 0) {
        typed.current = null;
        setWaiting(text === "" ? null : text);
        say({ bad: false, text: "no size goes on these together" });
        return;
      }
      setWaiting(null);
      ask({
        title: "Size",
        value: text,
        kinds: sizes.map((o) => ({ kind: o.kind, words: o.words, value: o.value ?? "" })),
        hint: "Arithmetic, parameters and units: 120 - 15, reach/2, 5/16 in",
        submit: (kind, value) => act({ do: "size", kind, ids: entities, value }),
      });
    },
    [ask, act, entities, say],
  );
  const askSize = useCallback(
    (first: string) => {
      if (entities.length > 0 && offered) {
        openSize(typed.current ?? first, offers);
        return;
      }
      if (first === "") return;
      typed.current = first;
      setWaiting(first);
    },
    [offers, offered, entities, openSize],
  );
  useEffect(() => {
    if (!engine || entities.length === 0) return;
    let current = true;
    const put = (o: Offer[], names: string[]) => {
      if (!current) return;
      setCalled(names);
      setOffers(o);
      setOffered(true);
    };
    Promise.all([
      engine.call<Offer[]>("offers", { ids: entities }),
      engine.call<string[]>("called", { ids: entities }),
    ]).then(
      ([o, names]) => put(o, names),
      () => put([], []),
    );
    return () => {
      current = false;
    };
  }, [engine, entities, frame?.revision]);
  // What was typed before the choice, or before it was known what goes on it, waits for it. The
  // core
  // may answer before the key, between the key and its picture, or after both.
  const askWaiting = useEffectEvent(() => {
    if (waiting !== null && offered && entities.length > 0 && offers.some((o) => o.size) && !prompt)
      openSize(typed.current ?? waiting, offers);
  });
  useEffect(() => askWaiting(), [waiting, offered, offers, entities, prompt]);

  const constrain = useCallback(
    async (o: Offer) => {
      if (await act({ do: "constrain", kind: o.kind, ids: entities }))
        say({ bad: false, undo: true, text: `${o.words.replace(/[.]$/, "")} is put` });
    },
    [act, entities, say],
  );

  const edit = useCallback(
    (id: string, at?: Spot, first?: string) => {
      const s = frame?.sizes.find((z) => z.id === id);
      if (!s) return;
      choose([id]);
      ask(
        {
          title: s.kind.replaceAll("-", " "),
          kinds: [],
          value: first ?? s.formula,
          preset: first === undefined,
          hint: s.driven ? "It is measured now; a value makes it hold." : undefined,
          size: s.driven ? undefined : id,
          submit: (_, value) => act({ do: "set", id, value }),
        },
        at,
      );
    },
    [frame, choose, ask, act],
  );

  const askAction = useCallback(
    (doing: string, title: string, asks: string) => {
      if (entities.length === 0) {
        say({
          bad: false,
          text:
            "choose first: " +
            (lists?.actions.find((a) => a.do === doing)?.needs ?? "what it is about"),
        });
        return;
      }
      const one = doing === "round" || doing === "bevel";
      ask({
        title,
        kinds: [],
        value: "",
        hint: `Give: ${asks}. Separate several values by semicolons.`,
        submit: (_, value) =>
          act(one ? { do: doing, id: entities[0], value } : { do: doing, ids: entities, value }),
      });
    },
    [entities, ask, act, say, lists],
  );

  const pick = useCallback(
    (f: Finding | null) => {
      setFinding(f?.id ?? null);
      if (f?.at) setGoTo({ ...f.at });
      if (f && !f.at) {
        const p = frame?.points.find((q) => f.entities?.includes(q.id));
        if (p) setGoTo({ x: p.x, y: p.y });
      }
    },
    [frame],
  );

  const nextLoose = useCallback(
    (by: number) => {
      const list = frame?.points.filter((p) => frame.loose.includes(p.id)) ?? [];
      const round = frame?.curves.filter((c) => frame.loose.includes(c.id)) ?? [];
      const all = [...list.map((p) => p.id), ...round.map((c) => c.id)];
      if (all.length === 0) {
        say({ bad: false, text: "nothing is loose" });
        return;
      }
      const i = (looseAt + by + all.length) % all.length;
      setLooseAt(i);
      put({ kind: "choose" });
      const id = all[i] ?? "";
      choose([id]);
      const p = list.find((q) => q.id === id);
      if (p) setGoTo({ x: p.x, y: p.y });
      startWiggle(id);
    },
    [frame, looseAt, choose, startWiggle, say, put],
  );

  const cycle = useCallback(
    (by: number, add: boolean) => {
      const all = [...(frame?.curves ?? []), ...(frame?.points ?? []), ...(frame?.sizes ?? [])].map(
        (e) => e.id,
      );
      if (all.length === 0) return;
      const i = all.indexOf(chosen.at(-1) ?? "");
      const id = all[(i + by + all.length) % all.length] ?? "";
      choose(add ? [...chosen, id] : [id]);
    },
    [frame, chosen, choose],
  );

  const finishOpen = useCallback(
    () =>
      inTurn(async () => {
        const mode = now();
        if (mode.kind !== "draw") return;
        if (
          lists?.tools.find((t) => t.id === mode.tool)?.open &&
          (await sk.draw(mode.tool, mode.places, sides))
        )
          put({ kind: "draw", tool: mode.tool, places: [] });
      }),
    [inTurn, now, put, lists, sk, sides],
  );

  const leaveOff = useCallback(
    () =>
      void inTurn(() => {
        const mode = now();
        setCursor(null);
        if (mode.kind === "draw" && mode.places.length > 0) put({ ...mode, places: [] });
        else if (mode.kind !== "choose") put({ kind: "choose" });
        else {
          choose([]);
          setFinding(null);
          setWaiting(null);
          say(null);
        }
      }),
    [inTurn, now, put, choose, say],
  );

  const [edge, setEdge] = useState(-1);
  const nextEdge = useCallback(
    (by: number) => {
      const n = backdrop.length;
      if (n === 0) return;
      const i = edge < 0 ? (by > 0 ? 0 : n - 1) : (edge + by + n) % n;
      setEdge(i);
      const kind = backdrop[i]?.edge.kind;
      say({
        bad: false,
        text: `edge ${i + 1} of ${n}, ${kind === "arc" ? "an arc" : `a ${kind}`}; Enter traces it`,
      });
    },
    [backdrop, edge, say],
  );
  const traceEdge = useCallback(() => {
    const b = backdrop[edge];
    if (b) void act({ do: "trace", edge: b.edge });
    else nextEdge(1);
  }, [backdrop, edge, act, nextEdge]);

  const backToPart = useCallback(
    (extrude: boolean) =>
      void go(`/models/${model.row.id}${extrude ? `?begin=extrude&sketch=${step}` : ""}`),
    [go, model.row.id, step],
  );
  const switches: Switch[] = [
    { on: quiet, set: setQuiet, off: "Show all sizes", name: "Quieten all sizes" },
    {
      on: marks,
      set: setMarks,
      off: "Hide the symbols of constraints",
      name: "Show the symbols of constraints",
    },
    {
      on: free,
      set: setFree,
      off: "Guess constraints while drawing",
      name: "Guess nothing while drawing",
    },
  ];
  if (sheetOf)
    switches.push({
      on: sheet,
      set: setSheet,
      off: "Put the sheet away",
      name: "Show the sheet beside it",
    });
  const remove = useCallback(() => void act({ do: "remove", ids: chosen }), [act, chosen]);

  useKeys({
    sk,
    mode,
    setMode,
    offers,
    entities,
    chosen,
    cursor,
    setCursor,
    unit: placed.unit,
    anchor,
    busy: prompt !== null || quick || help,
    ask,
    askSize,
    edit,
    remove,
    cycle,
    nextLoose,
    leaveOff,
    typed,
    typeMore,
    dropTyped,
    constrain: (o) => void constrain(o),
    nextEdge,
    traceEdge,
    backToPart,
    finishOpen,
    save: async () => void (await save()),
    plain: {
      q: () => setQuick(true),
      "?": () => setHelp(true),
      w: () => startWiggle(chosen[0]),
      Home: whole,
    },
  });

  const picked = frame?.findings.find((f) => f.id === finding) ?? null;
  const look = useMemo<Look>(
    () => ({
      chosen: new Set(chosen),
      about: new Set([...(picked?.entities ?? []), ...(picked?.constraints ?? [])]),
      quiet,
      marks,
    }),
    [chosen, picked, quiet, marks],
  );
  const counts: Record<Tab, number> = {
    findings: frame?.findings.length ?? 0,
    constraints: frame?.constraints.length ?? 0,
    parameters: frame?.parameters.length ?? 0,
  };
  const freedom = !frame
    ? "Opening …"
    : !frame.solved
      ? "Contradiction"
      : !frame.analysed
        ? "Looking …"
        : frame.curves.length + frame.points.length === 0
          ? "Empty"
          : frame.freedom === 0
            ? "Held"
            : `${frame.freedom} loose`;

  return (
    <div className="flex h-full min-h-0 flex-col" data-sketch={step}>
      <div
        className={cx(
          "flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300",
          "bg-base-100 px-3 py-1",
        )}
      >
        <h1
          className="max-w-full min-w-32 truncate text-lg!"
          title={`${model.row.name} / ${placed.name || step}`}
        >
          <Link className="link-hover link" to={`/models/${model.row.id}`}>
            {model.row.name}
          </Link>{" "}
          / {placed.name || step}
        </h1>
        <span className="shrink-0 text-sm">
          on {placed.plane}, {placed.unit}
        </span>
        <button
          type="button"
          className="btn btn-xs w-28 shrink-0"
          data-freedom={frame?.analysed ? frame.freedom : undefined}
          onClick={() => (frame?.solved ? nextLoose(1) : pick(frame?.findings[0] ?? null))}
          title="Freedoms left; leads to the loose places one by one"
        >
          {freedom}
        </button>
        <Saved state={saving} />
        <div className="ml-auto flex flex-wrap items-center gap-1">
          <button
            type="button"
            className="btn btn-xs"
            disabled={!frame?.undo}
            title={frame?.undo && `Undo: ${frame.undo}`}
            onClick={() => void sk.step("undo")}
          >
            Undo
          </button>
          <button
            type="button"
            className="btn btn-xs"
            disabled={!frame?.redo}
            title={frame?.redo && `Redo: ${frame.redo}`}
            onClick={() => void sk.step("redo")}
          >
            Redo
          </button>
          <button
            type="button"
            className="btn btn-xs w-28"
            aria-pressed={quiet}
            onClick={() => setQuiet(!quiet)}
          >
            {quiet ? "Show sizes" : "Quieten sizes"}
          </button>
          {sheetOf && (
            <button
              type="button"
              className="btn btn-xs w-24"
              aria-pressed={sheet}
              onClick={() => setSheet(!sheet)}
            >
              {sheet ? "Sheet away" : "Sheet"}
            </button>
          )}
          <button
            type="button"
            className="btn btn-xs"
            title="Alt Enter"
            onClick={() => backToPart(false)}
          >
            Back to the part
          </button>
          <button
            type="button"
            className="btn btn-xs"
            title="Alt Shift Enter"
            onClick={() => backToPart(true)}
          >
            Extrude this
          </button>
          <Files open={openFile} save={saveFile} />
          <button type="button" className="btn btn-primary btn-xs" onClick={() => setQuick(true)}>
            Do … <kbd className="kbd kbd-xs text-base-content">q</kbd>
          </button>
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => setHelp(true)}
            aria-label="Keys"
          >
            ?
          </button>
        </div>
      </div>
      <div ref={host} className="relative flex min-h-0 flex-1">
        <ToolRail
          tools={lists?.tools ?? []}
          mode={mode}
          setMode={setMode}
          mayTrace={backdrop.length > 0}
        />
        {sheet && sheetOf && (
          <section className="w-[32%] min-w-64 border-r border-base-300" aria-label="Sheet">
            <SheetView url={sheetOf} />
          </section>
        )}
        <section className="relative min-w-0 flex-1" aria-label="Drawing board">
          <Canvas
            sk={sk}
            turns={turns}
            look={look}
            backdrop={backdrop}
            finding={picked}
            wiggle={wiggle}
            sides={sides}
            free={free}
            edit={edit}
            anchor={(s) => (anchor.current = s)}
            goTo={goTo}
            fitKey={fitKey}
            keyCursor={cursor}
            keyEdge={edge}
            ground={ground}
          >
            <div
              className={cx(
                "absolute top-2 right-2 left-2 z-10 flex flex-col items-start gap-1",
                "empty:hidden",
              )}
            >
              <SaveTrouble opened={opened} newest={() => sk.document().then(body)} />
              {saving.kind === "differs" && <Bar bad>{sentence(saving.words)}</Bar>}
              {waiting !== null && !prompt && (entities.length === 0 || offered) && (
                <Bar>
                  “{waiting.trim()}” waits:{" "}
                  {entities.length === 0
                    ? "choose what it is the size of"
                    : "no size goes on these together; choose something else"}
                  .{" "}
                  <button type="button" className="btn btn-ghost btn-xs" onClick={dropTyped}>
                    Let it go
                  </button>
                </Bar>
              )}
              {word && !prompt && (
                <Bar bad={word.bad}>
                  {sentence(word.text)}{" "}
                  {word.undo && (
                    <button
                      type="button"
                      className="btn btn-xs"
                      onClick={() => void sk.step("undo")}
                    >
                      Undo
                    </button>
                  )}{" "}
                  <button type="button" className="btn btn-ghost btn-xs" onClick={() => say(null)}>
                    Close
                  </button>
                </Bar>
              )}
              {placed.warning && !word && <Bar bad>{sentence(placed.warning)}</Bar>}
            </div>
            {mode.kind === "choose" && (
              <Offers
                chosen={entities}
                called={called}
                offers={offers}
                ready={offered}
                put={(o) => void constrain(o)}
                size={() => askSize("")}
              />
            )}
            {mode.kind === "draw" && mode.tool.startsWith("polygon") && (
              <label
                className={cx(
                  "absolute top-2 left-2 flex items-center gap-1 bg-base-100 px-2",
                  "py-1 text-sm",
                )}
              >
                Sides
                <input
                  type="number"
                  className="input input-xs w-16"
                  min={3}
                  max={64}
                  value={sides}
                  onChange={(e) => setSides(Math.min(64, Math.max(3, Number(e.target.value))))}
                />
              </label>
            )}
            {mode.kind === "edit" && (
              <p
                className="pointer-events-none absolute bottom-2 left-3 bg-base-100/85 px-1 text-sm"
                role="status"
              >
                {
                  {
                    trim: "Put it on the piece that goes",
                    extend: "Put it on the end that is too short",
                    split: "Put it where the curve is to be split",
                    trace:
                      "Pick an edge of the solid, or go through them with . and , " +
                      "and take one with Enter",
                  }[mode.do]
                }
                . Esc ends.
              </p>
            )}
            {prompt && (
              <ValueField
                sk={sk}
                take={takeTyped}
                unit={/angle/.test(prompt.prompt.title) ? "°" : placed.unit}
                prompt={prompt.prompt}
                at={prompt.at}
                word={word?.bad ? sentence(word.text) : null}
                close={() => {
                  typed.current = null;
                  setPrompt(null);
                  say(null);
                  host.current?.querySelector<SVGSVGElement>("svg[role=application]")?.focus();
                }}
              />
            )}
          </Canvas>
        </section>
        <aside
          className="flex w-72 min-h-0 flex-col border-l border-base-300 bg-base-100"
          aria-label="What there is to say"
        >
          <div role="tablist" className="tabs tabs-border shrink-0 border-b border-base-300">
            {(["findings", "constraints", "parameters"] as const).map((t) => (
              <button
                key={t}
                type="button"
                role="tab"
                aria-selected={tab === t}
                className={`tab px-1.5 text-[0.8125rem] ${tab === t ? "tab-active" : ""}`}
                onClick={() => setTab(t)}
              >
                <span className="first-letter:uppercase">{t}</span>&nbsp;{counts[t]}
              </button>
            ))}
          </div>
          <div className="min-h-0 flex-1 overflow-y-auto">
            {frame && tab === "findings" && (
              <Findings
                frame={frame}
                looking={sk.looking}
                picked={finding}
                pick={pick}
                repair={(f) => void act({ do: "repair", id: f.id })}
                repairAll={(kind) => void act({ do: "repair-all", kind })}
              />
            )}
            {frame && tab === "constraints" && (
              <Constraints
                frame={frame}
                chosen={chosen}
                choose={choose}
                remove={(id) => void act({ do: "remove", ids: [id] })}
              />
            )}
            {frame && tab === "parameters" && <Parameters sk={sk} unit={placed.unit} />}
          </div>
        </aside>
        {quick && (
          <Commands
            sk={sk}
            entities={entities}
            offers={offers}
            traceable={backdrop.length > 0}
            switches={switches}
            doing={{
              setMode,
              ask,
              askAction,
              edit,
              nextLoose: () => nextLoose(1),
              wiggle: () => startWiggle(chosen[0]),
              backToPart,
              whole,
              help: () => setHelp(true),
              save: (f) => void saveFile(f),
              open: openFile,
            }}
            close={() => setQuick(false)}
          />
        )}
        {help && <Keys close={() => setHelp(false)} />}
      </div>
      {files.input}
    </div>
  );
}
