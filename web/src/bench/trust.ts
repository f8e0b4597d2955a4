/** Whether a calibration can be trusted, in the few words that travel with every number. */
export interface Trust {
  state: string;
  reason: string;
}

export function trustWords(trust: Trust | null): string {
  if (!trust || trust.state === "ticked" || trust.state === "absent") return "";
  if (trust.state === "hollow") return "not calibrated";
  return trust.state === "stale" ? "calibration stale" : "calibration failing";
}
