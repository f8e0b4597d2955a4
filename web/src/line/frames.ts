import type { Trust } from "../bench/trust";
import type { Schemas } from "../api/client";

export type Line = Schemas["LineOut"];
export type Column = Schemas["ColumnOut"];

/** A thinned trace: values with the status code of each, or no codes when all are fine. */
export interface Trace {
  v: (number | null)[];
  f: number[];
}

/** What a sensor's chain gave, at its own times. */
interface ChainedTrace extends Trace {
  t: number[];
  /** The status of its newest result. */
  last: string;
}

/** One picture of a line; what was drawn from `from_s` on is replaced by it. */
export interface Frame {
  from_s: number;
  t: number[];
  raw: Trace[];
  chained: Record<string, ChainedTrace>;
  newest: [number | null, string][];
  arrived_us: number;
  samples: number;
  skipped: number;
}

/** The working of the channel in hand, and whether its calibration holds. */
export interface Working {
  channel: number;
  steps: Schemas["StepOut"][];
  trust: Trust | null;
  air: Schemas["AirHeardOut"] | null;
}

export interface JudgedLine {
  number: number;
  text: string;
  verdict: string;
  reason: string;
  at_s: number;
}

export type Message =
  | { kind: "state"; body: Line }
  | { kind: "frame"; body: Frame }
  | { kind: "lines"; body: JudgedLine[] }
  | { kind: "working"; body: Working };
