/** What a click on the sheet does. */
export type Tool =
  | "hand"
  | "dimension"
  | "section"
  | "local"
  | "detail"
  | "shorten"
  | "square"
  | "symbol"
  | "step"
  | "whole";

/** With these a line is drawn, and with those a circle, from its middle. */
export const drawsLine = (t: Tool) => t === "section" || t === "shorten";
export const drawsCircle = (t: Tool) => t === "detail" || t === "local";
/** With these a line of the part is clicked. */
export const clicksLine = (t: Tool) => ["dimension", "square", "step", "symbol"].includes(t);

export const tools: { tool: Tool; words: string; help: string }[] = [
  { tool: "hand", words: "Move", help: "Drag views, dimensions and notes" },
  { tool: "dimension", words: "Dimension", help: "Pick one edge or two, then a place" },
  {
    tool: "section",
    words: "Section",
    help: "Draw the cutting line across a view, through the middle of what is cut",
  },
  {
    tool: "local",
    words: "Local section",
    help: "Draw a circle around what is cut free in the view itself: a hole, a slot",
  },
  { tool: "detail", words: "Detail", help: "Draw a circle from its middle around what is small" },
  { tool: "shorten", words: "Shorten", help: "Draw the stretch of a long part that is left out" },
  { tool: "square", words: "Square view", help: "Click the line of a slanting face" },
  {
    tool: "symbol",
    words: "Texture",
    help: "Click the line of a face to state its surface texture",
  },
];

/** Views that can be added. */
export const sides: [string, string][] = [
  ["front", "from the front"],
  ["top", "from above"],
  ["left", "from the left"],
  ["right", "from the right"],
  ["bottom", "from below"],
  ["back", "from the back"],
  ["pictorial", "pictorial"],
  ["pictorial-back", "pictorial, from behind"],
];
