import { useCallback, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { type Schemas } from "../api/client";
import { useAskBeforeLeaving } from "../app/keep";
import { Bar, sentence } from "../controls/notices";
import { type Opened } from "../saving/saver";
import { SaveTrouble } from "../saving/savers";
import { placeQuery, usePlace } from "../fitting/inPlace";
import { SheetView } from "../sheet/SheetView";
import { BoardHead } from "./BoardHead";
import { Asked, BoardMessages } from "./BoardMessages";
import { Canvas } from "./Canvas";
import { Commands, type Switch } from "./Commands";
import { Files } from "./head";
import { Keys } from "./Keys";
import { Offers } from "./Offers";
import { Panel } from "./Panel";
import type { Look } from "./Picture";
import { ToolRail } from "./ToolRail";
import { ValueField } from "./ValueField";
import type { Offer, SketchDocument, Spot } from "./core/types";
import { type Mode, useTurns } from "./modes";
import { useBackdrop } from "./useBackdrop";
import { useFiles } from "./useFiles";
import { useKeys } from "./useKeys";
import { useOffers } from "./useOffers";
import { usePrompt } from "./usePrompt";
import { useSave } from "./useSave";
import { useSketch } from "./useSketch";
import { useTour } from "./useTour";
import { useWiggle } from "./useWiggle";

interface Props {
  opened: Opened;
  step: string;
  placed: Schemas["PlacedSketch"];
}

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
  const { place } = usePlace();
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
  const { frame, chosen, choose, act, say, word, lists } = sk;
  const [quick, setQuick] = useState(false);
  const [help, setHelp] = useState(false);
  const [quiet, setQuiet] = useState(false);
  const [marks, setMarks] = useState(true);
  const [free, setFree] = useState(false);
  const [sides, setSides] = useState(6);
  const [fitKey, setFitKey] = useState(0);
  const [cursor, setCursor] = useState<Spot | null>(null);
  const { issueId, exerciseId } = model.row;
  const sheetOf = issueId ? `issues/${issueId}` : exerciseId ? `exercises/${exerciseId}` : null;
  const [sheet, setSheet] = useState(sheetOf !== null && window.innerWidth >= 1200);
  const anchor = useRef<Spot>({ x: 500, y: 300 });
  const host = useRef<HTMLDivElement>(null);
  const whole = useCallback(() => setFitKey((k) => k + 1), []);
  const { wiggle, start: startWiggle } = useWiggle(sk);
  const { save: saveFile, open: openFile, input: fileInput } = useFiles(sk, placed.name, whole);
  const board = useBackdrop(placed.edges, sk);
  const offered = useOffers(sk);
  const { entities, offers } = offered;
  const prompting = usePrompt(sk, offered, anchor);
  const { prompt, ask, askSize, edit } = prompting;
  const tour = useTour(sk, turns, startWiggle);
  const { picked, pick, nextLoose } = tour;

  const setMode = useCallback(
    (m: Mode) => {
      change(m);
      setCursor(null);
      if (m.kind !== "choose") choose([]);
    },
    [change, choose],
  );
  const constrain = useCallback(
    async (o: Offer) => {
      if (await act({ do: "constrain", kind: o.kind, ids: entities }))
        say({ bad: false, undo: true, text: `${o.words.replace(/[.]$/, "")} is put` });
    },
    [act, entities, say],
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
  const { dropTyped } = prompting;
  const leaveOff = useCallback(
    () =>
      void inTurn(() => {
        const mode = now();
        setCursor(null);
        if (mode.kind === "draw" && mode.places.length > 0) put({ ...mode, places: [] });
        else if (mode.kind !== "choose") put({ kind: "choose" });
        else {
          choose([]);
          pick(null);
          dropTyped();
          say(null);
        }
      }),
    [inTurn, now, put, choose, pick, dropTyped, say],
  );
  const backToPart = useCallback(
    (extrude: boolean) =>
      void go(
        `/models/${model.row.id}?${[
          ...(place ? [placeQuery(place)] : []),
          ...(extrude ? [`begin=extrude&sketch=${step}`] : []),
        ].join("&")}`,
      ),
    [go, model.row.id, step, place],
  );
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
    turns,
    unsure: entities.length > 0 && !offered.ready,
    ask,
    askSize,
    edit,
    remove,
    cycle: tour.cycle,
    nextLoose,
    leaveOff,
    typed: prompting.typed,
    typeMore: prompting.typeMore,
    dropTyped,
    constrain: (o) => void constrain(o),
    nextEdge: board.nextEdge,
    traceEdge: board.traceEdge,
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

  const look = useMemo<Look>(
    () => ({
      chosen: new Set(chosen),
      about: new Set([...(picked?.entities ?? []), ...(picked?.constraints ?? [])]),
      quiet,
      marks,
    }),
    [chosen, picked, quiet, marks],
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

  return (
    <div className="flex h-full min-h-0 flex-col" data-sketch={step}>
      <BoardHead
        sk={sk}
        model={model.row}
        name={placed.name}
        on={`on ${placed.plane}, ${placed.unit}`}
        saving={saving}
        next={() => (frame?.solved ? nextLoose(1) : pick(frame?.findings[0] ?? null))}
        quiet={{ on: quiet, set: setQuiet }}
        sheet={sheetOf ? { on: sheet, set: setSheet } : null}
        backToPart={backToPart}
        quick={() => setQuick(true)}
        help={() => setHelp(true)}
      >
        <Files open={openFile} save={saveFile} />
      </BoardHead>
      <div ref={host} className="relative flex min-h-0 flex-1">
        <ToolRail
          tools={lists?.tools ?? []}
          mode={mode}
          setMode={setMode}
          mayTrace={board.backdrop.length > 0}
        />
        {sheet && sheetOf && (
          <section className="w-[32%] min-w-64 border-r border-base-300" aria-label="Sheet">
            <SheetView url={`/api/${sheetOf}/sheet`} />
          </section>
        )}
        <section className="relative min-w-0 flex-1" aria-label="Drawing board">
          <Canvas
            sk={sk}
            turns={turns}
            look={look}
            backdrop={board.backdrop}
            finding={picked}
            wiggle={wiggle}
            sides={sides}
            free={free}
            edit={edit}
            anchor={(s) => (anchor.current = s)}
            goTo={tour.goTo}
            fitKey={fitKey}
            keyCursor={cursor}
            keyEdge={board.edge}
            ground={board.ground}
          >
            <BoardMessages
              sk={sk}
              prompting={prompting}
              offered={offered}
              warnings={placed.warning ? [placed.warning] : []}
            >
              <SaveTrouble opened={opened} newest={() => sk.document().then(body)} />
              {saving.kind === "differs" && <Bar bad>{sentence(saving.words)}</Bar>}
            </BoardMessages>
            {mode.kind === "choose" && (
              <Offers
                chosen={entities}
                called={offered.called}
                offers={offers}
                ready={offered.ready}
                put={(o) => void constrain(o)}
                size={() => askSize("")}
              />
            )}
            <Asked mode={mode} sides={sides} setSides={setSides} />
            {prompt && (
              <ValueField
                sk={sk}
                take={prompting.takeTyped}
                unit={/angle/.test(prompt.prompt.title) ? "°" : placed.unit}
                prompt={prompt.prompt}
                at={prompt.at}
                word={word?.bad ? sentence(word.text) : null}
                close={() => {
                  prompting.close();
                  host.current?.querySelector<SVGSVGElement>("svg[role=application]")?.focus();
                }}
              />
            )}
          </Canvas>
        </section>
        <Panel sk={sk} unit={placed.unit} finding={tour.finding} pick={pick} />
        {quick && (
          <Commands
            sk={sk}
            entities={entities}
            offers={offers}
            traceable={board.backdrop.length > 0}
            switches={switches}
            doing={{
              setMode,
              ask,
              askAction: prompting.askAction,
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
      {fileInput}
    </div>
  );
}
