import type { Schemas } from "../api/client";
import { type UnitSystem, decimalsFor, grouped, useUnits } from "./units";

/** How an SI value is read in every system of units, as the server describes it. */
export type Shown = Schemas["ShownOut"];

/** The same in the system chosen. */
export interface Reads {
  unit: string;
  decimals: number;
  fromSi: (si: number) => number;
  toSi: (shown: number) => number;
  /** A difference or a spread: scaled, never shifted. */
  step: (si: number) => number;
}

export function readsIn(system: UnitSystem, shown: Shown): Reads {
  const { unit, scale, offset, decimals } = shown[system];
  return {
    unit,
    decimals,
    fromSi: (si) => si * scale + offset,
    toSi: (value) => (value - offset) / scale,
    step: (si) => si * scale,
  };
}

export function useReads(shown: Shown): Reads {
  return readsIn(useUnits(), shown);
}

/** A value with its unit, as finely as it is worth. */
export function saidIn(reads: Reads, si: number, decimals: number = reads.decimals): string {
  return `${grouped(reads.fromSi(si), decimals)} ${reads.unit}`.trim();
}

/** A value with its expanded uncertainty: ["0.995", "0.004", "m"]. */
export function measuredIn(reads: Reads, si: number, spreadSi: number): [string, string, string] {
  const spread = reads.step(spreadSi);
  const decimals = spread > 0 ? decimalsFor(spread) : reads.decimals;
  return [grouped(reads.fromSi(si), decimals), grouped(spread, decimals), reads.unit];
}
