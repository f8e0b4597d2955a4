import type { Schemas } from "../api/client";
import { grouped } from "../units/units";
import { figures, scatter, shortTime, within } from "./words";

/** The answer first: for pulses how many and how fast, for anything else its mean and scatter. */
export function selectionSays(found: Schemas["SelectionOut"], dt: number, isPulse: boolean): string {
  const over = `in ${shortTime(dt)}`;
  if (isPulse) {
    const pace = found.pulse_hz === null ? "" : `, ${figures(found.pulse_hz)} a second`;
    return `${grouped(found.pulses, 0)} pulse${found.pulses === 1 ? "" : "s"} ${over}${pace}.`;
  }
  const mean = within(found.mean, found.sd === null ? null : found.sd / Math.sqrt(found.n));
  return `${mean} ${found.unit} on average ${over}, scattering by ${scatter(found.sd)} ${found.unit}.`;
}
