import { ask, client } from "../api/client";
import type { ModelDocument } from "../saving/saver";

/**
 * The models that were edited in their places in this window, by assembly, with the version that
 * each has then: what is undone in the assembly is undone in them too.
 */
const all = new Map<number, Map<number, number>>();

export function edited(assembly: number, model: number, version: number) {
  const of = all.get(assembly) ?? new Map<number, number>();
  all.set(assembly, of.set(model, version));
}

/** From here on the models stay as they are, whatever the assembly goes back to. */
export const letModelsBe = (assembly: number) => void all.delete(assembly);

/** The edited models of which a document has another state than they have themselves. */
export async function editedWith(assembly: number, document: ModelDocument) {
  const of = all.get(assembly);
  if (!of) return undefined;
  const sources = await ask(
    client.GET("/assemblies/{id}/sources", { params: { path: { id: assembly } } }),
  );
  const used = new Set((document.parts as { sha256: string }[]).map((p) => p.sha256));
  return [...of].flatMap(([id, version]) => {
    const states = sources.filter((s) => s.modelId === id);
    const now = states.find((s) => used.has(s.sha256));
    const itself = states.find((s) => s.version === version);
    return now && now.sha256 !== itself?.sha256 ? [{ id, version, sha256: now.sha256 }] : [];
  });
}
