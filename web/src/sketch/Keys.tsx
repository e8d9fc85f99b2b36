import { KeysDialog } from "../controls/KeysDialog";

const keys: [string, string][] = [
  ["q", "type what you want to do"],
  ["1 to 9, 0", "take a tool, while nothing is chosen"],
  ["12 / reach", "with something chosen: start typing its size (= starts a formula)"],
  ["Tab", "in the field of a size: size another way"],
  [
    "a s d f g h j k l",
    "put the constraint on that the bar below offers, when nothing more is typed",
  ],
  ["Alt", "held while drawing: nothing is guessed"],
  [
    "x; y",
    "while drawing: type a place; after the first place of a line or circle, " +
      "its length or diameter",
  ],
  ["Alt Enter", "back to the part; with Shift, extrude this"],
  [". , Enter", "while tracing: go through the edges of the solid, and take one"],
  [
    "arrows, Enter",
    "while drawing, trimming or splitting: move the keyboard's cursor and put it down; " +
      "Enter also ends a spline",
  ],
  ["arrows", "with something loose chosen: pull it"],
  [". ,", "choose the next thing, or the one before; with Shift it is added"],
  ["n b", "go to the next loose place, or the one before"],
  ["w", "let it wiggle"],
  ["Delete", "remove what is chosen"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["Home", "show it whole"],
  ["+ −, wheel", "nearer, farther"],
  ["Space and drag", "move the paper"],
  ["double click", "choose the whole chain, or change a size"],
  ["Esc", "leave off; choose nothing"],
];

/** The keys of the drawing board. */
export const Keys = ({ close }: { close: () => void }) => (
  <KeysDialog title="Keys of the drawing board" keys={keys} close={close} />
);
