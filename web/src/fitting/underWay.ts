import { keep, kept, letGo } from "../app/keep";
import type { ModelDocument } from "../saving/saver";
import type { Shapes } from "./assemblies";
import type { Command } from "./useFitting";

/** A change that is still worked out, with the shapes that came with it. */
export interface Step {
  command: Command;
  added?: Shapes;
  /** It was under way already when the assembly was left before. */
  again?: boolean;
}

/** What was under way when an assembly was left, and the state that it was done to. */
interface Left {
  base: ModelDocument;
  steps: Step[];
}

const nameOf = (id: number) => `assembly/${id}/under-way`;

/**
 * The changes of one assembly that are still worked out, in their order. They are kept in this
 * browser until they are done, so that who leaves at once finds them done when the assembly is
 * opened next.
 */
export class UnderWay {
  private steps: Step[] = [];

  constructor(private readonly id: number) {}

  /** Takes changes to a state; false where the browser has no room to keep them. */
  begin(steps: Step[], base: ModelDocument): boolean {
    this.steps = [...this.steps, ...steps];
    return this.write(base);
  }

  /** A change is done, or was refused: the state is this now. */
  end(step: Step, base: ModelDocument) {
    this.steps = this.steps.filter((s) => s !== step);
    this.write(base);
  }

  private write(base: ModelDocument) {
    if (this.steps.length > 0)
      return keep(nameOf(this.id), { base, steps: this.steps } satisfies Left);
    letGo(nameOf(this.id));
    return true;
  }
}

/** Takes what was under way when an assembly was left. */
export function takeLeft(id: number): Left | undefined {
  const left = kept<Left>(nameOf(id));
  letGo(nameOf(id));
  return left;
}
