import type { Stone } from "../api/queries";

const again: Record<Stone["stage"], string> = {
  wired: "look over the wiring of",
  heard: "listen again to",
  calibrated: "look again at the calibration of",
  tuned: "tune again",
  driven: "drive again with",
};

const first: Record<Stone["stage"], string> = {
  wired: "wire",
  heard: "listen to",
  calibrated: "calibrate",
  tuned: "tune",
  driven: "drive with",
};

/** What to do next, by the state and stage of the stone. */
export const NEXT_WORDS: Record<Stone["state"], Record<Stone["stage"], string>> = {
  hollow: first,
  stale: again,
  failing: again,
  ticked: again,
  absent: again,
};
