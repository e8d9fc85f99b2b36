import { Problem, type Schemas, ask, client, passes } from "../api/client";
import { keep, kept, letGo } from "../app/keep";

type Model = Schemas["Model"];
type Saved = Schemas["SavedModel"];
export type ModelDocument = Model["document"];

/** A changed state: of which version, and what was done. */
export interface Change {
  version: number;
  document: ModelDocument;
  what?: string;
}

/** What is kept under a version: models, and assemblies. */
export interface Kind {
  name: string;
  /** Earlier states are kept, and listed. */
  versions: boolean;
  /** Where one is on the server. */
  path: (id: number) => string;
  get: (id: number) => Promise<Model>;
  put: (id: number, change: Change) => Promise<{ version: number; answer?: Saved }>;
  /** A change as the server takes it; as it is where this is left out. */
  body?: (id: number, change: Change) => unknown;
  /** Keeps a document as one of its own, and gives the page of that. */
  apart: (row: Model["row"], document: ModelDocument) => Promise<string>;
}

export const models: Kind = {
  name: "model",
  versions: true,
  path: (id) => `/api/models/${id}`,
  get: (id) => ask(client.GET("/models/{id}", { params: { path: { id } } })),
  put: async (id, body) => {
    const answer = await ask(client.PUT("/models/{id}", { params: { path: { id } }, body }));
    return { version: answer.row.version, answer };
  },
  apart: async (row, document) => {
    const name = `${row.name} (other window)`;
    const made = await ask(
      client.POST("/models", {
        body: { name, unit: "mm", issueId: row.issueId, exerciseId: undefined },
      }),
    );
    await models.put(made.row.id, { version: made.row.version, document: { ...document, name } });
    return `/models/${made.row.id}`;
  },
};

export type Saving =
  { kind: "saved" | "unsaved" | "saving" } | { kind: "failed" | "stale"; problem: Problem };

/** What is kept in the browser of a model until the server has it. */
interface Unsaved {
  version: number;
  document: ModelDocument;
  what?: string;
  at: string;
}

const delay = 400;
const again = [2000, 4000, 8000, 15000]; // after an outage, in milliseconds
const onTheWay = 60000; // bytes that a browser still sends when the page is left

const nameOf = (kind: Kind, id: number) => `${kind.name}/${id}`;
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
const problemOf = (e: unknown) =>
  e instanceof Problem ? e : new Problem("this could not be saved", "try again", 0);

/**
 * Brings the newest state of one model to the server, under its version. It outlives the page that
 * shows the model: what was put into it is kept in the browser at once, sent a moment later, sent
 * again after an outage, and never written over what somebody else saved.
 */
export class Saver {
  state: Saving = { kind: "saved" };
  /** The last answer of the server to what was saved. */
  answer: Saved | null = null;
  private next: Unsaved | null = null;
  private sending: Promise<void> | null = null;
  private coming: Promise<unknown> = Promise.resolve();
  private timer: number | undefined;
  private failures = 0;
  private roomless = false;
  /** How many changes are waited for that are kept nowhere yet. */
  private awaited = 0;
  private readonly watchers = new Set<() => void>();

  constructor(
    readonly id: number,
    private version: number,
    private document: ModelDocument,
    private readonly kind: Kind = models,
  ) {
    window.addEventListener("pagehide", this.onTheWayOut);
    window.addEventListener("online", this.retry);
  }

  /** Takes the newest state; it is kept at once and sent a moment later. */
  put(document: ModelDocument, what?: string) {
    if (this.state.kind === "stale") {
      this.hold(document, what);
      return;
    }
    if (!this.sending && same(document, this.document)) {
      this.next = null;
      letGo(nameOf(this.kind, this.id));
      window.clearTimeout(this.timer);
      this.tell({ kind: "saved" });
      return;
    }
    this.hold(document, what);
    if (!this.sending) this.tell({ kind: "unsaved" });
    this.plan(delay);
  }

  private hold(document: ModelDocument, what?: string) {
    this.next = { version: this.version, document, what, at: new Date().toISOString() };
    this.roomless = !keep(nameOf(this.kind, this.id), this.next);
  }

  /**
   * Waits for something that may put a last change: until then not everything is saved, and it
   * would be lost with the page unless it is kept elsewhere meanwhile.
   */
  expect(last: Promise<unknown>, keptMeanwhile = false) {
    if (this.state.kind === "saved") this.tell({ kind: "unsaved" });
    if (!keptMeanwhile) this.awaited++;
    const done = last
      .catch(() => undefined)
      .then(() => {
        if (!keptMeanwhile) this.awaited--;
      });
    this.coming = Promise.all([this.coming, done]);
    void this.coming.then(() => this.flush());
  }

  /** Sends what is unsaved now; true when the server has everything. */
  async flush(): Promise<boolean> {
    await this.coming;
    window.clearTimeout(this.timer);
    while (this.next && this.state.kind !== "stale") {
      await (this.sending ?? this.send());
      if (this.state.kind === "failed") return false;
    }
    await this.sending;
    if (this.state.kind === "unsaved" && !this.next) this.tell({ kind: "saved" }); // nothing came
    return this.state.kind === "saved";
  }

  /** Whether something would be lost if the page were closed now. */
  get atRisk() {
    return this.awaited > 0 || (this.roomless && this.next !== null);
  }

  readonly retry = () => {
    if (this.next && this.state.kind === "failed") void this.flush();
  };

  /** Lets go of what is unsaved on purpose. */
  drop() {
    this.next = null;
    window.clearTimeout(this.timer);
    letGo(nameOf(this.kind, this.id));
  }

  watch(changed: () => void) {
    this.watchers.add(changed);
    return () => void this.watchers.delete(changed);
  }

  private tell(state: Saving) {
    this.state = state;
    for (const w of this.watchers) w();
  }

  private plan(ms: number) {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.flush(), ms);
  }

  private send(): Promise<void> {
    const sent = this.next;
    if (!sent) return Promise.resolve();
    this.tell({ kind: "saving" });
    this.sending = this.bring(sent).finally(() => {
      this.sending = null;
    });
    return this.sending;
  }

  private async bring(sent: Unsaved) {
    try {
      const { document, what } = sent;
      const out = await this.kind.put(this.id, { version: this.version, document, what });
      this.answer = out.answer ?? null;
      this.arrived(sent, out.version);
    } catch (e) {
      await this.failed(sent, problemOf(e));
    }
  }

  private arrived(sent: Unsaved, version: number) {
    this.version = version;
    this.document = sent.document;
    this.failures = 0;
    if (this.next === sent) {
      this.next = null;
      letGo(nameOf(this.kind, this.id));
      this.tell({ kind: "saved" });
    } else if (this.next) {
      this.hold(this.next.document, this.next.what);
      this.tell({ kind: "unsaved" });
      this.plan(delay);
    }
  }

  private async failed(sent: Unsaved, problem: Problem) {
    if (problem.status === 409) {
      // An earlier answer may have been lost on its way: then what is there is what was sent.
      const there = await this.kind.get(this.id).catch(() => null);
      if (there && same(there.document, sent.document)) {
        this.arrived(sent, there.row.version);
        return;
      }
      this.tell({ kind: "stale", problem });
      return;
    }
    this.tell({ kind: "failed", problem });
    if (passes(problem) || problem.status === 429 || problem.status === 401)
      this.plan(again[Math.min(this.failures++, again.length - 1)] ?? 15000);
  }

  private readonly onTheWayOut = () => {
    if (!this.next || this.sending || this.state.kind === "stale") return;
    const { document, what } = this.next;
    const change = { version: this.version, document, what };
    const body = JSON.stringify(this.kind.body?.(this.id, change) ?? change);
    if (body.length < onTheWay)
      void fetch(this.kind.path(this.id), {
        method: "PUT",
        keepalive: true,
        headers: { "Content-Type": "application/json" },
        body,
      }).catch(() => undefined); // what did not arrive is offered again
  };

  /** Ends a saver that nothing is waiting in. */
  stop() {
    window.removeEventListener("pagehide", this.onTheWayOut);
    window.removeEventListener("online", this.retry);
  }
}

/** A model as it is opened, with what had not been saved when it was last left. */
export interface Opened {
  kind: Kind;
  model: Model;
  saver: Saver;
  /** Changes that had not been saved were found and saved now. */
  restored?: string;
  /** Changes that had not been saved, and that the model was changed elsewhere since. */
  apart?: ModelDocument;
}

/** The savers of this window, one for each model that was opened in it. */
export class Savers {
  private readonly all = new Map<string, Saver>();

  /** Opens a model after what is under way for it has been saved. */
  async open(id: number, kind: Kind = models): Promise<Opened> {
    const old = this.all.get(nameOf(kind, id));
    if (old && !(await old.flush()) && old.state.kind === "failed") throw old.state.problem;
    old?.stop();
    return this.recover(await kind.get(id), kind);
  }

  private async recover(model: Model, kind: Kind): Promise<Opened> {
    const { id, version } = model.row;
    const fresh = (m: Model) => {
      const s = new Saver(id, m.row.version, m.document, kind);
      this.all.set(nameOf(kind, id), s);
      return s;
    };
    const left = kept<Unsaved>(nameOf(kind, id));
    if (!left) return { kind, model, saver: fresh(model) };
    if (same(left.document, model.document)) {
      letGo(nameOf(kind, id)); // it was saved on the way out
      return { kind, model, saver: fresh(model) };
    }
    if (left.version !== version) return { kind, model, saver: fresh(model), apart: left.document };
    const saver = fresh(model);
    saver.put(left.document, left.what ?? "kept from before");
    if (!(await saver.flush()))
      return { kind, model: { ...model, document: left.document }, saver, restored: left.at };
    return { kind, model: await kind.get(id), saver, restored: left.at };
  }

  /** Tries again what an outage or an ended session held up. */
  retry() {
    for (const s of this.all.values()) s.retry();
  }

  get atRisk() {
    return [...this.all.values()].some((s) => s.atRisk);
  }
}

/**
 * Keeps a document as one of its own, where somebody else has changed the one that it was of. It
 * gives the page of that.
 */
export async function saveApart(
  kind: Kind,
  row: Model["row"],
  document: ModelDocument,
): Promise<string> {
  const page = await kind.apart(row, document);
  letGo(nameOf(kind, row.id));
  return page;
}
