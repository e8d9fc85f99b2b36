import type { Mesh, Schemas } from "../api/client";

/** An attempt at an assembly beside its reference. */
export interface Scene {
  meshes: Mesh[];
  components: Schemas["BesideComponent"][];
  shared: Mesh[];
  motions: Schemas["BesideMotion"][];
  paths: { name: string; attempt: number[][]; reference: number[][] }[];
}

/** The scene of what is compared, where that is an assembly. */
export function sceneOf(compared: Partial<Scene> | undefined): Scene | null {
  const { meshes, components, shared, motions, paths } = compared ?? {};
  if (!meshes || !components || !shared || !motions || !paths) return null;
  return { meshes, components, shared, motions, paths };
}
