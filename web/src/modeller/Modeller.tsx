import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Me, Problem, type Schemas, ask, client } from "../api/client";
import { cx } from "../app/cx";
import { useTab, useTitle } from "../app/place";
import type { ModelDocument, Opened } from "../saving/saver";
import { useSurroundings } from "../fitting/Around";
import { type Place, placeQuery } from "../fitting/inPlace";
import { PlaceBar } from "../fitting/PlaceBar";
import { SaveTrouble } from "../saving/savers";
import { QuickEntry } from "../sketch/QuickEntry";
import { Findings, Measure, Solids, useMeasure } from "./Figures";
import { FirstHelp, Help } from "./Help";
import { Messages, type Said } from "./Messages";
import { ModelMenu } from "./ModelMenu";
import { NewStep } from "./NewStep";
import { Parameters } from "./Parameters";
import { RouteCard } from "./RouteCard";
import { SheetAtTheSide, SheetOver } from "../sheet/SheetPlace";
import { SheetBeside } from "./SheetBeside";
import { StepForm } from "./StepForm";
import { Toolbar } from "./Toolbar";
import { Versions } from "./Versions";
import { type Look, View } from "./View";
import { begun } from "./draft";
import { entries } from "./entries";
import { type Part, titleOf } from "./types";
import { useChoice } from "./useChoice";
import { useCommands } from "./useCommands";
import { useDraft } from "./useDraft";
import { useForms } from "./useForms";
import { useHandle } from "./useHandle";
import { useModel } from "./useModel";
import { useModellerKeys } from "./useModellerKeys";
import { useRebuild } from "./useRebuild";
import { useSheet } from "./useSheet";
import { usedSketches, useShownSketches } from "./useShownSketches";
import { useAttempt, useTrial } from "./useTrial";

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

/** The modeller: the sheet, the part, and the route card of its steps. */
export function Modeller({
  opened,
  me,
  place,
}: {
  opened: Opened;
  me: Me;
  /** In which place of an assembly it is edited, if in one. */
  place: Place | null;
}) {
  const { model } = opened;
  const id = model.row.id;
  const m = useModel(opened);
  const { doc, change } = m;
  const go = useNavigate();
  const forms = useForms();
  const [until, setUntil] = useState<string | null>(null);
  const [hover, setHover] = useState<string | null>(null);
  const [marked, setMarked] = useState<string | null>(null);
  const [tab, setTab] = useTab(tabNames, "steps");
  const [look, setLook] = useState<Look>({ shading: "shaded", perspective: false, cut: null });
  const [fit, setFit] = useState({ key: 0, chosen: false });
  const [quick, setQuick] = useState(false);
  const [help, setHelp] = useState(false);
  const [said, say] = useState<Said | null>(null);
  const sheet = useSheet(opened);
  const around = useSurroundings(place);

  // The states to show: with the step that is being edited, and before it.
  const drafting = useDraft(id, doc, forms);
  const { draft, active, activate } = drafting;
  const built = until !== null && doc.steps.some((s) => s.id === until) ? until : undefined;
  const trial = useTrial(doc);
  const endTrial = trial.end;
  const main = useRebuild(id, drafting.withDraft, draft ? draft.step.id : built, trial.set);
  const earlier = useRebuild(id, drafting.before);
  const attempt = useAttempt(trial, doc, main.part, change);
  // A chip of the form names something of the part as it is before the step: it is shown there.
  const [peeking, setPeeking] = useState(false);
  const peek = useCallback((key: string | null) => {
    setPeeking(key !== null);
    setHover(key);
  }, []);
  const part: Part | undefined = draft && (active !== null || peeking) ? earlier.part : main.part;

  const choice = useChoice({ drafting, part: main.part, before: earlier.part, say });
  const { chosen, clear } = choice;
  const sketches = useShownSketches(doc, forms, drafting, marked);
  const pull = useHandle({
    draft,
    setDraft: drafting.setDraft,
    part: main.part,
    unit: doc.unit,
    picking: active !== null,
  });
  const commands = useCommands({ id, doc, part: main.part, change, say });
  const removeStep = commands.remove;
  const remove = useCallback(
    (step: string) => {
      removeStep(step);
      setMarked(null);
    },
    [removeStep],
  );

  const picks = useMemo(() => refsOf(chosen, part), [chosen, part]);
  const measuring = useMeasure(id, doc, built, tab === "measure" && !draft ? picks : []);
  const line = useMemo<[number[], number[]] | undefined>(
    () =>
      tab === "measure" && measuring.data?.from && measuring.data.to
        ? [measuring.data.from, measuring.data.to]
        : undefined,
    [tab, measuring.data],
  );
  const fitNow = useCallback(
    (onChosen: boolean) => setFit((f) => ({ key: f.key + 1, chosen: onChosen })),
    [],
  );

  const { close: closeForm, leave: leaveForm, open: openForm } = drafting;
  const close = useCallback(() => {
    setPeeking(false);
    closeForm();
    say(null);
  }, [closeForm]);
  const leave = useCallback(() => {
    leaveForm();
    setPeeking(false);
    say(null);
  }, [leaveForm]);
  const edit = useCallback(
    (stepId: string) => {
      const index = doc.steps.findIndex((s) => s.id === stepId);
      const step = doc.steps[index];
      if (!step) return;
      clear();
      endTrial();
      setTab("steps");
      setMarked(stepId);
      openForm({ step, index, isNew: false }, null);
    },
    [doc.steps, setTab, clear, endTrial, openForm],
  );
  const draw = useCallback(
    async (stepId: string) => {
      if (await m.settle()) void go(`/models/${id}/sketches/${stepId}${within(place)}`);
    },
    [m, go, id, place],
  );
  const begin = useCallback(
    async (kind: string, sketch?: string) => {
      const form = forms.kinds.get(kind);
      if (!form) return;
      endTrial();
      setTab("steps");
      try {
        const fresh = await ask(
          client.POST("/models/{id}/edit", {
            params: { path: { id } },
            body: { document: doc, command: { do: "fresh", kind } },
          }),
        );
        const index = built ? doc.steps.findIndex((s) => s.id === built) + 1 : doc.steps.length;
        const drawn = doc.steps.slice(0, index).filter(forms.isSketch);
        const used = usedSketches(doc);
        const { step, asks } = begun(form, fresh.id ?? "", {
          unit: doc.unit,
          part,
          chosen,
          sketches: drawn,
          free: drawn.filter((s) => !used.has(s.id)),
          sketch: sketch ?? marked,
        });
        clear();
        openForm({ step, index, isNew: true }, asks);
      } catch (e) {
        say({ bad: true, text: e instanceof Problem ? e.what : "the step cannot be begun" });
      }
    },
    [forms, id, doc, built, marked, part, chosen, setTab, endTrial, clear, openForm],
  );
  useAsked(begin, forms.kinds, main.part !== undefined);

  const keep = useCallback(async () => {
    if (!draft) return;
    const { step, isNew } = draft;
    const next = drafting.withDraft;
    const word = step.name || forms.called(step.kind);
    if (forms.isSketch(step) && isNew) {
      if (!step.plane) {
        say({ bad: true, text: "choose the plane of the sketch first" });
        activate("plane");
        return;
      }
      const blank = { ...step, entities: [], constraints: [] };
      const steps = next.steps.map((s) => (s.id === step.id ? blank : s));
      close();
      if (await m.settle({ ...next, steps }, `${word} added`))
        void go(`/models/${id}/sketches/${step.id}${within(place)}`);
      return;
    }
    if (JSON.stringify(next) !== JSON.stringify(doc))
      change(next, isNew ? `${word} added` : `${word} changed`);
    setMarked(step.id);
    if (isNew && built) setUntil(step.id);
    drafting.setAside(null);
    close();
  }, [draft, drafting, forms, doc, change, close, activate, m, go, id, place, built]);

  const plain = useMemo<Record<string, (e: KeyboardEvent) => void>>(
    () => ({
      q: () => setQuick(true),
      "?": () => setHelp(true),
      Home: (e) => fitNow(e.shiftKey),
      Delete: () => marked && !draft && remove(marked),
      Enter: (e) => {
        if (marked && !draft && !(e.target instanceof HTMLButtonElement)) edit(marked);
      },
      Escape: () => {
        if (help) setHelp(false);
        else if (active) activate(null);
        else if (draft) leave();
        else {
          clear();
          say(null);
        }
      },
    }),
    [marked, draft, active, help, fitNow, remove, edit, leave, activate, clear],
  );
  const ctrl = useMemo(
    () => ({ z: draft ? leave : m.undo, y: m.redo, s: () => void m.save() }),
    [draft, leave, m],
  );
  useModellerKeys({ quick, plain, ctrl });
  useTitle(doc.name);

  const { form, field } = drafting;
  const planes =
    field?.kind === "plane" || field?.kind === "planes" || (form?.gives === "plane" && !active);
  const under = hover && part ? words(hover, part) : null;
  return (
    <div
      className="flex h-full min-h-0 flex-col"
      data-model={id}
      data-fresh={main.fresh && !main.busy}
      data-took={Math.round(main.took)}
    >
      {place && (
        <PlaceBar
          place={place}
          around={around}
          settle={() => m.settle()}
          go={(to) => void go(to)}
        />
      )}
      <Toolbar
        m={m}
        part={main.part}
        drafted={draft !== null}
        toFailed={(step) => {
          setTab("steps");
          setMarked(step);
        }}
        look={look}
        setLook={setLook}
        fit={() => fitNow(chosen.size > 0)}
        sheet={sheet}
        quick={() => setQuick(true)}
        help={() => setHelp(true)}
      >
        <ModelMenu
          model={model}
          me={me}
          doc={doc}
          settle={() => m.settle()}
          take={change}
          look={() => setTab("findings")}
        />
      </Toolbar>
      <div className="relative flex min-h-0 flex-1">
        <SheetAtTheSide sheet={sheet}>
          {sheet && <SheetBeside model={id} url={sheet.url} />}
        </SheetAtTheSide>
        <section className="relative min-w-0 flex-1" aria-label="Part">
          <View
            part={part}
            chosen={choice.shown}
            hover={hover}
            setHover={setHover}
            pick={choice.pick}
            allowed={choice.allowed}
            sketches={sketches}
            planes={planes}
            look={look}
            fit={fit}
            line={line}
            pull={pull}
            around={around.data?.bodies}
          />
          <Messages
            look={look}
            setLook={setLook}
            drafting={drafting}
            main={main}
            commands={commands}
            said={said}
            say={say}
          >
            <SaveTrouble opened={opened} newest={() => m.doc as unknown as ModelDocument} />
          </Messages>
          <p
            className="pointer-events-none absolute bottom-2 left-2 max-w-[60%] truncate text-xs"
            data-hover={hover ?? ""}
          >
            {under ?? (main.busy ? "…" : "")}
          </p>
          <SheetOver sheet={sheet}>{sheet && <SheetBeside model={id} url={sheet.url} />}</SheetOver>
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
              change={drafting.setStep}
              before={earlier.part}
              after={main.fresh ? main.part : undefined}
              sketches={doc.steps.slice(0, draft.index).flatMap((s) => {
                const gives = forms.kinds.get(s.kind)?.gives;
                return gives === "sketch" || gives === "path"
                  ? [{ id: s.id, name: titleOf(s, main.part), gives }]
                  : [];
              })}
              active={active}
              activate={activate}
              hover={peek}
              busy={main.busy}
              error={main.error}
              keep={() => void keep()}
              cancel={leave}
            />
          ) : (
            <>
              <Tabs tab={tab} show={setTab} />
              {tab === "steps" ? (
                <>
                  <RouteCard
                    doc={doc}
                    part={main.part}
                    fresh={main.fresh}
                    forms={forms.kinds}
                    marked={marked}
                    mark={(s) => setMarked(marked === s ? null : s)}
                    until={until}
                    build={setUntil}
                    edit={edit}
                    draw={(s) => void draw(s)}
                    move={commands.move}
                    turn={commands.turn}
                    remove={remove}
                  />
                  <NewStep forms={forms} doc={doc} begin={(kind) => void begin(kind)} />
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
                      trying={trial.trying}
                      attempt={attempt}
                    />
                  )}
                  {tab === "solids" && (
                    <Solids
                      doc={doc}
                      part={main.part}
                      fresh={main.fresh && !main.busy}
                      materials={forms.materials}
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
        {quick && (
          <QuickEntry
            entries={entries({
              forms,
              m,
              part: main.part,
              commands: { ...commands, remove },
              begin: (kind) => void begin(kind),
              edit,
              draw: (step) => void draw(step),
              build: setUntil,
              fit: fitNow,
              look,
              setLook,
              tabs,
              show: (k) => setTab(k as Tab),
              sheet,
              help: () => setHelp(true),
            })}
            close={() => setQuick(false)}
          />
        )}
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

/** What is kept in the address when another page of the same model is opened. */
const within = (place: Place | null) => (place ? `?${placeQuery(place)}` : "");

function Tabs({ tab, show }: { tab: Tab; show: (tab: Tab) => void }) {
  return (
    <div role="tablist" className="grid grid-cols-3 border-b border-base-300 text-sm">
      {tabNames.map((k) => (
        <button
          key={k}
          type="button"
          role="tab"
          aria-selected={tab === k}
          className={cx(
            "tab h-7 border-base-300",
            tab === k && "tab-active bg-base-300 font-semibold",
          )}
          onClick={() => show(k)}
        >
          {tabs[k]}
        </button>
      ))}
    </div>
  );
}

/** Begins the step that a drawing board has sent here for, to go on with its sketch; once. */
function useAsked(
  begin: (kind: string, sketch?: string) => Promise<void>,
  kinds: ReadonlyMap<string, unknown>,
  ready: boolean,
) {
  const [query, setQuery] = useSearchParams();
  const asked = query.get("begin");
  const sketch = query.get("sketch");
  const answered = useRef(false);
  useEffect(() => {
    if (!asked || answered.current || !kinds.has(asked) || !ready) return;
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
    void begin(asked, sketch ?? undefined);
  }, [asked, sketch, kinds, ready, begin, setQuery]);
}

/** The addresses of what is chosen, for measuring. */
function refsOf(chosen: ReadonlySet<string>, part: Part | undefined): Schemas["Ref"][] {
  return [...chosen].flatMap((k) => {
    const [kind, i] = k.split(":");
    if (kind === "face") return [k];
    const there =
      kind === "corner"
        ? part?.corners[Number(i)]
        : kind === "edge"
          ? part?.edges[Number(i)]
          : undefined;
    return there ? [`${kind}:${there.index}`] : [];
  });
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
