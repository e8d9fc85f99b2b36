import { KeysDialog } from "../controls/KeysDialog";

const keys: [string, string][] = [
  ["press", "pick a face or an edge; two on different components can be joined"],
  ["drag", "pull a component that is loose; elsewhere, turn the view"],
  ["Enter", "make the joint that is shown"],
  ["o", "the other way round, before a joint is made"],
  ["Esc", "let go of what is picked"],
  ["q", "type what you want to do: everything here has a name, faces and edges too"],
  ["Delete", "remove the component that is chosen, with its joints"],
  ["Ctrl Z, Ctrl Y", "undo, and do again"],
  ["arrows, + and −", "turn the view and come nearer, while it has the focus"],
];

/** What the hand and the keys do at the fitting screen. */
export function FittingHelp({ close }: { close: () => void }) {
  return (
    <KeysDialog title="Keys of the fitting screen" keys={keys} close={close}>
      <p className="mt-3 text-sm">
        Held components have plain dark lines. What is loose has soft lines, with an arrow for each
        way in which it can slide and a ring for each in which it can turn; “Wiggle” shows it. A
        joint that is opened in the list is driven and played, within limits that can be typed;
        “Trace it” marks a point whose path is drawn. The sliders below draw the assembly apart and
        cut it.
      </p>
    </KeysDialog>
  );
}
