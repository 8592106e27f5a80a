/** The order of work; names as in the addresses and the server's routers. */
export const STEPS = [
  { id: "brief", name: "Brief", what: "key, tempo, who owns the sub" },
  { id: "hits", name: "Hits", what: "make, cut, shape, layer" },
  { id: "tune", name: "Tune", what: "every hit to the key" },
  { id: "line", name: "Line", what: "notes and strokes" },
  { id: "separate", name: "Separate", what: "who gives up what" },
  { id: "duck", name: "Duck", what: "bass out of the kick’s way" },
  { id: "room", name: "Room", what: "where it will be heard" },
  { id: "handover", name: "Hand over", what: "files to take along" },
  { id: "log", name: "Log", what: "kept versions" },
  { id: "stock", name: "Stock", what: "sounds of your own" },
] as const;

export type StepId = (typeof STEPS)[number]["id"];
export const isStep = (id: string | undefined): id is StepId =>
  STEPS.some((step) => step.id === id);
/** Steps that are about the kick alone. */
export const ALONE: StepId[] = ["hits", "tune"];
