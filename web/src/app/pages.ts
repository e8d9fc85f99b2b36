import { soon } from "./soon";

// Pages that come when they are needed: they bring much that other pages do without.

export const modeller = soon("the modeller", () =>
  import("../model/ModelPage").then((m) => m.ModelPage),
);
export const modelSheet = soon("the sheet", () =>
  import("../model/ModelPage").then((m) => m.ModelSheetPage),
);
export const sketchBoard = soon("the drawing board", () =>
  import("../sketch/SketchPage").then((m) => m.SketchPage),
);
export const assemblySheet = soon("the sheets", () =>
  import("../fitting/AssemblySheetPage").then((m) => m.AssemblySheetPage),
);
export const fittingScreen = soon("the fitting screen", () =>
  import("../fitting/FittingPage").then((m) => m.FittingPage),
);
