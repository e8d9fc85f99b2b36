import "./wasm_exec.js";

interface GoRuntime {
  importObject: WebAssembly.Imports;
  run(instance: WebAssembly.Instance): Promise<void>;
}

interface CoreScope {
  Go: new () => GoRuntime;
  coreCall: (method: string, args: string) => string;
  coreReady: () => void;
  postMessage(message: unknown): void;
  onmessage: ((e: MessageEvent<{ id: number; method: string; args: unknown }>) => void) | null;
}

const scope = globalThis as unknown as CoreScope;

async function start(address: string, what: string) {
  const packed = await fetch(address);
  if (!packed.ok || !packed.body) throw new Error(`the ${what} core cannot be fetched`);
  const bytes = await new Response(
    packed.body.pipeThrough(new DecompressionStream("gzip")),
  ).arrayBuffer();
  const go = new scope.Go();
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject);
  await new Promise<void>((resolve) => {
    scope.coreReady = resolve;
    void go.run(instance);
  });
}

/** Answers the calls of a page in a thread of its own, so that the page never waits. */
export function serve(address: string, what: string) {
  const ready = start(address, what);
  scope.onmessage = (e) => {
    const { id, method, args } = e.data;
    ready.then(
      () => {
        const text = JSON.stringify(args);
        const begin = performance.now();
        const out = scope.coreCall(method, text);
        scope.postMessage({ id, out, ms: performance.now() - begin });
      },
      (error: unknown) =>
        scope.postMessage({
          id,
          out: JSON.stringify({
            error: error instanceof Error ? error.message : `the ${what} core does not start`,
          }),
          ms: 0,
        }),
    );
  };
}
