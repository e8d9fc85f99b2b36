import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { type Me, Problem, ask, client } from "../api/client";
import { useTitle } from "../app/place";
import { Bar, Loading, PageTrouble, Trouble, sentence } from "../controls/notices";
import { QuickEntry } from "../sketch/QuickEntry";
import { useModellerKeys } from "../modeller/useModellerKeys";
import { SaveTrouble, useOpened } from "../saving/savers";
import type { Opened } from "../saving/saver";
import { AddPart } from "./AddPart";
import { type Shapes, assemblies, makeShapes, useAssemblyProgress, useShapes } from "./assemblies";
import { EditHere, useEditHere } from "./EditHere";
import { SheetAtTheSide, SheetOver, usePlacedSheet } from "../sheet/SheetPlace";
import { TickedSheet } from "../sheet/TickedSheet";
import { sheetOf, ticksOf } from "./AssemblySheetPage";
import { FittingHelp } from "./Help";
import { entries } from "./entries";
import { FittingBar } from "./FittingBar";
import { FittingPanel } from "./FittingPanel";
import { FittingView } from "./FittingView";
import { JointBar } from "./JointBar";
import { warmUp } from "./lives";
import type { Picked } from "./picking";
import { Newer } from "./Newer";
import { RemoveAssembly } from "./RemoveAssembly";
import { Vary } from "./Vary";
import { VersionsPanel } from "./VersionsPanel";
import { Views, together } from "./Views";
import { type Frame, type Motion, type Remake, useFitting } from "./useFitting";
import { useLooked } from "./useLooked";

const ignore = () => undefined;

/** Whether what moves together is still what a path was drawn for. */
function sameTies(moved: { ties: string }, frame: Frame) {
  return moved.ties === tiesOf(frame);
}

function tiesOf(frame: Frame) {
  return JSON.stringify([
    frame.components.map((c) => [c.id, c.part, c.pinned]),
    frame.joints.map(({ joint }) => ({ ...joint, state: 0 })),
    frame.couplings.map((c) => c.coupling),
    frame.traces.map((t) => t.trace),
  ]);
}

/** Where parts are put together, joined and moved. */
export function FittingPage({ me }: { me: Me }) {
  const id = Number(useParams().id);
  useEffect(warmUp, []);
  const opened = useOpened(id, "fitting", assemblies);
  const shapes = useShapes(id, opened.data?.model.document);
  if (opened.error || shapes.error)
    return (
      <PageTrouble
        error={opened.error ?? shapes.error}
        retry={() => {
          void opened.refetch();
          void shapes.refetch();
        }}
      />
    );
  if (!opened.data || !shapes.data) return <Loading what="the assembly and its parts" />;
  return <Bench opened={opened.data} shapes={shapes.data} me={me} />;
}

function Bench({ opened, shapes: first, me }: { opened: Opened; shapes: Shapes; me: Me }) {
  const id = opened.model.row.id;
  const remake = useCallback<Remake>((document, parts) => makeShapes(id, document, parts), [id]);
  const fitting = useFitting(id, opened.model.document, first, opened.saver, remake);
  const [picked, setPicked] = useState<Picked[]>([]);
  const [hover, setHover] = useState<Picked | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const [faint, setFaint] = useState<ReadonlySet<string>>(new Set());
  /** A part is put in, or takes the place of a component. */
  const [adding, setAdding] = useState<{ instead?: string } | null>(null);
  const [help, setHelp] = useState(false);
  const [quick, setQuick] = useState(false);
  const [removing, setRemoving] = useState(false);
  const [fit, setFit] = useState(0);
  const sheet = usePlacedSheet(sheetOf(opened.model.row), `/assemblies/${id}/sheet`);
  const ticked = sheet && <TickedSheet store={ticksOf(id)} url={sheet.url} />;
  useTitle(fitting.frame?.name ?? opened.model.row.name);
  const { frame } = fitting;
  const [view, setView] = useState(together);
  /** The note is shown when the assembly is opened: it may say what a file has left out. */
  const [noted, setNoted] = useState(opened.model.document.note === undefined);
  const [moved, setMoved] = useState<{ ties: string; motion: Motion } | null>(null);
  const looked = useLooked(fitting, view);
  // A path stays while joints are driven, and goes with a change of what it was drawn for.
  const motion = moved && frame && sameTies(moved, frame) ? moved.motion : null;

  const pick = useCallback(
    (hit: Picked | null) => {
      if (!hit) return;
      setChosen(hit.component);
      setPicked((list) => {
        const one = list[0];
        if (!one || list.length === 2) return [hit];
        return one.component === hit.component ? [hit] : [one, hit];
      });
    },
    [setPicked],
  );
  const clear = () => {
    setPicked([]);
    setHover(null);
  };
  const nextLoose = () => {
    const list = frame?.components.filter((c) => c.freedom > 0) ?? [];
    const at = list.findIndex((c) => c.id === chosen);
    setChosen(list[(at + 1) % Math.max(1, list.length)]?.id ?? null);
  };
  const editing = useEditHere(id, frame, () => opened.saver.flush());
  /** How often joints were asked to be read from the contacts by what was typed. */
  const [contacts, setContacts] = useState(0);
  const stopLook = useRef<AbortController | null>(null);
  const look = useMutation({
    mutationFn: async () => {
      stopLook.current = new AbortController();
      const document = await fitting.state();
      const of = frame?.revision;
      const found = await ask(
        client.POST("/assemblies/{id}/collisions", {
          params: { path: { id } },
          body: { document },
          signal: stopLook.current.signal,
        }),
      );
      return { found, of };
    },
  });
  const looking = useAssemblyProgress(id, look.isPending);
  const over = useMutation({
    mutationFn: async () => ({ of: frame?.revision, found: await fitting.lookOver() }),
  });
  // What collides, the kernel knows: it is looked for at the same time.
  const overAll = {
    isPending: over.isPending,
    mutate: () => {
      over.mutate();
      if ((frame?.components.length ?? 0) > 1) look.mutate();
    },
  };
  const keys = useMemo(
    () => ({
      plain: {
        Escape: () => {
          setPicked([]);
          setChosen(null);
        },
        Delete: () => {
          if (chosen) void fitting.act({ do: "remove", id: chosen });
        },
        q: () => setQuick(true),
      },
      ctrl: { z: fitting.undo, y: fitting.redo },
    }),
    [chosen, fitting],
  );
  useModellerKeys({ quick: adding !== null || help || removing || quick, ...keys });
  if (fitting.error !== null && !frame) return <PageTrouble error={fitting.error} />;
  if (!fitting.picture) return <Loading what="the fitting screen" />;
  const [a, b] = picked;
  return (
    <div className="relative flex h-full min-h-0 flex-col">
      {frame ? (
        <FittingBar
          id={id}
          row={opened.model.row}
          sheet={sheet}
          me={me}
          frame={frame}
          fitting={fitting}
          saver={opened.saver}
          add={() => setAdding({})}
          collide={{
            isPending: look.isPending,
            done: looking?.done ?? 0,
            mutate: look.mutate,
            stop: () => {
              stopLook.current?.abort();
              look.reset();
            },
          }}
          over={overAll}
          fit={() => setFit(fit + 1)}
          help={() => setHelp(true)}
          remove={() => setRemoving(true)}
          read={() => setContacts(contacts + 1)}
          nextLoose={nextLoose}
        />
      ) : (
        <div className="flex h-[2.4rem] items-center gap-2 border-b border-base-300 px-3">
          <Link to="/models" className="link-hover link text-sm">
            My models
          </Link>
          <h1 className="font-heading px-2 text-base font-semibold">{opened.model.row.name}</h1>
        </div>
      )}
      <div className="relative flex min-h-0 flex-1">
        <SheetAtTheSide sheet={sheet}>{ticked}</SheetAtTheSide>
        <div className="relative min-w-0 flex-1">
          <SheetOver sheet={sheet}>{ticked}</SheetOver>
          <FittingView
            picture={fitting.picture}
            poses={looked.poses}
            apart={view.apart}
            plane={looked.plane}
            cuts={looked.cuts}
            paths={motion?.paths ?? []}
            shapes={fitting.shapes}
            picked={picked}
            hover={hover}
            chosen={chosen}
            hidden={hidden}
            faint={faint}
            // What was saved may stand otherwise once it is solved: it is fitted again then.
            fit={frame ? fit : -1}
            over={frame ? setHover : ignore}
            pick={frame ? pick : ignore}
            take={fitting.take}
            pull={fitting.pull}
            release={(keep) => void fitting.release(keep)}
            draw={looked.draw}
          />
          <div className="pointer-events-none absolute inset-x-2 top-2 flex flex-col gap-1">
            <div className="pointer-events-auto flex flex-col items-start gap-1">
              {a && b && (
                <JointBar
                  key={`${a.component}#${a.name} ${b.component}#${b.name}`}
                  fitting={fitting}
                  a={a}
                  b={b}
                  done={clear}
                />
              )}
              {a && !b && (
                <Bar>
                  Picked: {a.words}. Pick a face or an edge of another component to join it to, or
                  press Esc to let go.{" "}
                  <button
                    type="button"
                    className="btn btn-xs"
                    onClick={() => {
                      const of = `${a.component}#${a.name}`;
                      void fitting.act({ do: "trace", trace: { id: "new", of } }).then(clear);
                    }}
                  >
                    Trace it
                  </button>
                </Bar>
              )}
              {fitting.making > 0 && (
                <Bar>
                  <span className="loading loading-ring loading-xs" /> Making{" "}
                  {fitting.making === 1 ? "a part" : `${fitting.making} parts`} at other sizes …
                </Bar>
              )}
              <SaveTrouble opened={opened} newest={fitting.state} />
              {fitting.resumed && (
                <Bar>
                  What was under way when you left has been done; “Undo” takes it back.{" "}
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs"
                    onClick={fitting.forgetResumed}
                  >
                    Close
                  </button>
                </Bar>
              )}
              {fitting.error !== null && <Trouble error={fitting.error} retry={fitting.dismiss} />}
              {look.error && <Trouble error={look.error} retry={() => look.mutate()} />}
              {over.error && <Trouble error={over.error} retry={() => over.mutate()} />}
              {frame?.note && !noted && (
                <Bar>
                  {sentence(frame.note)}{" "}
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs"
                    onClick={() => setNoted(true)}
                  >
                    Close
                  </button>
                </Bar>
              )}
              {frame?.ways && (
                <Bar>
                  Here it can go on in {frame.ways.length} ways:
                  <ol className="list-decimal pl-5">
                    {frame.ways.map((w) => (
                      <li key={w}>{w}</li>
                    ))}
                  </ol>
                </Bar>
              )}
              {frame?.says.map((s) => (
                <Bar bad key={s.what}>
                  {sentence(`${s.what}; ${s.remedy}`)}
                </Bar>
              ))}
            </div>
          </div>
          <p className="absolute bottom-1 left-2 text-xs" role="status" data-hint>
            {!frame ? (
              <>
                <span className="loading loading-ring loading-xs" /> Working out what can move …
              </>
            ) : hover ? (
              `${frame.components.find((c) => c.id === hover.component)?.name}: ${hover.words}`
            ) : frame.components.length === 0 ? (
              "Put in a part to begin with: it stays where it is, and the others come to it."
            ) : view.apart > 0 ? (
              "Drag a component to where it is to stand when the assembly is drawn apart."
            ) : (
              "Press on a face or an edge to join it; drag what is loose to move it."
            )}
          </p>
        </div>
        {frame ? (
          <FittingPanel
            frame={frame}
            chosen={chosen}
            choose={setChosen}
            hidden={hidden}
            setHidden={setHidden}
            faint={faint}
            setFaint={setFaint}
            act={(c) => void fitting.act(c)}
            replace={(c) => setAdding({ instead: c })}
            fitting={fitting}
            collisions={look.data?.of === frame.revision ? look.data.found : null}
            found={over.data?.of === frame.revision ? over.data.found : null}
            newer={<Newer id={id} fitting={fitting} />}
            edit={(component) => <EditHere component={component} editing={editing} />}
            contacts={contacts}
            versions={<VersionsPanel id={id} fitting={fitting} saver={opened.saver} />}
            vary={<Vary id={id} fitting={fitting} choose={setChosen} />}
            motion={motion}
            moves={(m) => setMoved({ ties: tiesOf(frame), motion: m })}
          />
        ) : (
          <aside className="w-80 border-l border-base-300" aria-busy />
        )}
      </div>
      <Views
        view={view}
        set={setView}
        forced={looked.forced}
        busy={looked.busy}
        anew={looked.set ? () => void fitting.act({ do: "draw-anew" }) : undefined}
      />
      {frame && removing && (
        <RemoveAssembly
          id={id}
          name={frame.name}
          gone={() => opened.saver.drop()}
          close={() => setRemoving(false)}
        />
      )}
      {frame && quick && (
        <QuickEntry
          close={() => setQuick(false)}
          entries={entries({
            frame,
            shapes: fitting.shapes,
            act: (c) => void fitting.act(c),
            choose: setChosen,
            pick,
            replace: (instead) => setAdding({ instead }),
            edit: (component) =>
              editing.may(component) && !editing.newer(component)
                ? () => editing.open.mutate(component)
                : null,
            hidden,
            hide: setHidden,
            plain: [
              { name: "Put in a part", run: () => setAdding({}) },
              { name: "Undo", note: frame.undo ?? "", key: "Ctrl Z", run: fitting.undo },
              { name: "Redo", note: frame.redo ?? "", key: "Ctrl Y", run: fitting.redo },
              { name: "Look for collisions", run: () => look.mutate() },
              { name: "Look over", run: overAll.mutate },
              { name: "Show what is loose", run: nextLoose },
              { name: "Read joints from the contacts", run: () => setContacts(contacts + 1) },
              { name: "Show all", run: () => setHidden(new Set()) },
              { name: "Fit", run: () => setFit(fit + 1) },
              { name: "Keys and help", run: () => setHelp(true) },
            ],
          })}
        />
      )}
      {help && <FittingHelp close={() => setHelp(false)} />}
      {frame && adding && (
        <AddPart
          id={id}
          me={me}
          instead={frame.components.find((c) => c.id === adding.instead)?.name}
          close={() => setAdding(null)}
          put={async (made, name, count) => {
            const added = Object.fromEntries(made.map((m) => [m.part.id, m.shape]));
            const [one] = made;
            if (adding.instead && one) {
              if (made.length > 1)
                throw new Problem(
                  `the file holds ${made.length} solids, and one takes the place of a component`,
                  "put them in as new components, and remove this one",
                  0,
                );
              const change = { do: "replace", id: adding.instead, part: one.part };
              if (await fitting.act(change, added)) setAdding(null);
              return;
            }
            for (const { part } of made.flatMap((m) => Array.from({ length: count }, () => m))) {
              const called = made.length === 1 && name ? name : part.name;
              if (!(await fitting.act({ do: "add", name: called, part }, added))) return;
            }
            setAdding(null);
            setFit((n) => n + 1);
          }}
        />
      )}
    </div>
  );
}
