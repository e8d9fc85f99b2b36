// The sketch core in a thread of its own, so that the page never waits for it.
import "./wasm_exec.js";
import address from "./sketch.wasm.gz?url";

interface GoRuntime {
  importObject: WebAssembly.Imports;
  run(instance: WebAssembly.Instance): Promise<void>;
}

interface CoreScope {
  Go: new () => GoRuntime;
  sketchCore: (method: string, args: string) => string;
  sketchCoreReady: () => void;
  postMessage(message: unknown): void;
  onmessage: ((e: MessageEvent<{ id: number; method: string; args: unknown }>) => void) | null;
}

const scope = globalThis as unknown as CoreScope;

async function start() {
  const packed = await fetch(address);
  if (!packed.ok || !packed.body) throw new Error("the sketch core cannot be fetched");
  const bytes = await new Response(
    packed.body.pipeThrough(new DecompressionStream("gzip")),
  ).arrayBuffer();
  const go = new scope.Go();
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject);
  await new Promise<void>((resolve) => {
    scope.sketchCoreReady = resolve;
    void go.run(instance);
  });
}

const ready = start();

scope.onmessage = (e) => {
  const { id, method, args } = e.data;
  ready.then(
    () => {
      const text = JSON.stringify(args);
      const begin = performance.now();
      const out = scope.sketchCore(method, text);
      scope.postMessage({ id, out, ms: performance.now() - begin });
    },
    (error: unknown) =>
      scope.postMessage({
        id,
        out: JSON.stringify({
          error: error instanceof Error ? error.message : "the sketch core does not start",
        }),
        ms: 0,
      }),
  );
};
