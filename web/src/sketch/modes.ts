import type { Place } from "./core/types";

/** What the pointer does: chooses and pulls, draws with a tool, or edits what it is put on. */
export type Mode = { kind: "choose" } | { kind: "draw"; tool: string; places: Place[] } | { kind: "edit"; do: "trim" | "extend" | "split" | "trace" };

/** What a field for a value is about. */
export interface Prompt {
  title: string;
  /** Kinds to change between with Tab. */
  kinds: { kind: string; words: string; value: string }[];
  value: string;
  hint?: string;
  /** The size whose interval is shown. */
  size?: string;
  submit: (kind: string, value: string) => Promise<boolean>;
}
