import { Problem } from "../../api/client";

interface Answer {
  id: number;
  out: string;
  ms: number;
}

const sketchWorker = () =>
  new Worker(new URL("./engine.worker.ts", import.meta.url), { type: "module" });

/** A core of one page: the sketch core, unless it is another. Calls are answered in their order. */
export class Engine {
  private readonly worker: Worker;
  private readonly waiting = new Map<
    number,
    { resolve: (v: unknown) => void; reject: (e: Error) => void }
  >();
  private next = 1;
  /** How long the frames of the last pull took in the core, in milliseconds. */
  readonly pulls: number[] = [];

  constructor(worker: Worker = sketchWorker(), what = "sketch") {
    this.worker = worker;
    this.worker.onmessage = (e: MessageEvent<Answer>) => this.answer(e.data);
    this.worker.onerror = () => {
      for (const w of this.waiting.values())
        w.reject(
          new Problem(
            `the ${what} core does not start`,
            "reload the page; a browser of the last years is needed",
            0,
          ),
        );
      this.waiting.clear();
    };
  }

  private answer({ id, out, ms }: Answer) {
    const w = this.waiting.get(id);
    if (!w) return;
    this.waiting.delete(id);
    const reply = JSON.parse(out) as { value?: unknown; error?: string };
    this.pulls.push(ms);
    if (this.pulls.length > 2000) this.pulls.shift();
    if (reply.error) w.reject(new Problem(reply.error, undefined, 0));
    else w.resolve(reply.value);
  }

  call<T>(method: string, args: object): Promise<T> {
    const id = this.next++;
    return new Promise<T>((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as (v: unknown) => void, reject });
      this.worker.postMessage({ id, method, args });
    });
  }

  /** How many calls wait for their answer. */
  get busy() {
    return this.waiting.size;
  }

  /** Waits until nothing waits for its answer any more. */
  async idle() {
    while (this.waiting.size > 0) await new Promise((r) => window.setTimeout(r, 5));
  }

  stop() {
    this.worker.terminate();
    this.waiting.clear();
  }
}

/** Runs one call at a time and only the newest of those that came meanwhile. */
export class Newest {
  private running = false;
  private then: (() => Promise<void>) | null = null;

  run(call: () => Promise<void>) {
    if (this.running) {
      this.then = call;
      return;
    }
    this.running = true;
    void call().finally(() => {
      this.running = false;
      const next = this.then;
      this.then = null;
      if (next) this.run(next);
    });
  }

  drop() {
    this.then = null;
  }

  /** Waits until the newest has been carried out. */
  async done() {
    while (this.running) await new Promise((r) => window.setTimeout(r, 5));
  }
}
