import type { Stage } from "../../api/client";

/** What stages are called. */
export const STAGE_NAMES: Record<Stage["stage"], string> = {
  trim: "trim and fades",
  envelope: "envelope",
  equaliser: "equaliser",
  drive: "drive",
  transient: "transient",
  compressor: "compressor",
  gate: "gate",
  leveller: "leveller",
  bands: "three bands",
  limit: "limiter",
  clip: "clipper",
  resonator: "resonator",
  space: "space",
  delay: "delay",
  grains: "grains",
  level: "level and pan",
};
