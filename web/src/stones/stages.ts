import type { Stone } from "../api/queries";

/** The five stages of the work, in order, with the name of each bench. */
export const STAGES: { stage: Stone["stage"]; name: string }[] = [
  { stage: "wired", name: "Wired" },
  { stage: "heard", name: "Heard" },
  { stage: "calibrated", name: "Calibrated" },
  { stage: "tuned", name: "Tuned" },
  { stage: "driven", name: "Driven" },
];
