import type { Part } from "../queries";

type Figure = "ohm" | "farad" | "forward_v" | "max_a" | "gain" | "threshold_v" | "output_v" | "least_ohm" | "most_ohm";

/** What a kind of part is called, its legs as a person says them, and the figures it is asked for. */
export interface KindOfPart {
  kind: Part["kind"];
  label: string;
  letter: string;
  legs: Record<string, string>;
  figures: { field: Figure; label: string; usual: string; isNeeded: boolean }[];
}

const BOTH = { a: "from", b: "to" };
const DIODE = { anode: "anode", cathode: "cathode, the ringed side" };

export const PART_KINDS: KindOfPart[] = [
  {
    kind: "resistor",
    label: "resistor",
    letter: "R",
    legs: BOTH,
    figures: [{ field: "ohm", label: "Ω", usual: "220", isNeeded: true }],
  },
  {
    kind: "capacitor",
    label: "capacitor",
    letter: "C",
    legs: BOTH,
    figures: [{ field: "farad", label: "F", usual: "100n", isNeeded: true }],
  },
  { kind: "diode", label: "diode", letter: "D", legs: DIODE, figures: [] },
  {
    kind: "led",
    label: "LED",
    letter: "L",
    legs: { anode: "anode, the longer leg", cathode: "cathode, the flat side" },
    figures: [
      { field: "forward_v", label: "forward V", usual: "2.0", isNeeded: true },
      { field: "max_a", label: "bears A", usual: "20m", isNeeded: true },
    ],
  },
  {
    kind: "transistor",
    label: "NPN transistor",
    letter: "T",
    legs: { base: "base", collector: "collector", emitter: "emitter" },
    figures: [
      { field: "gain", label: "least gain", usual: "100", isNeeded: false },
      { field: "max_a", label: "bears A", usual: "0.5", isNeeded: false },
    ],
  },
  {
    kind: "mosfet",
    label: "N-channel MOSFET",
    letter: "M",
    legs: { gate: "gate", drain: "drain", source: "source" },
    figures: [
      { field: "threshold_v", label: "opens at V", usual: "2.0", isNeeded: false },
      { field: "max_a", label: "bears A", usual: "2", isNeeded: false },
    ],
  },
  { kind: "switch", label: "switch or contact", letter: "S", legs: BOTH, figures: [] },
  {
    kind: "potentiometer",
    label: "potentiometer",
    letter: "P",
    legs: { a: "one end", wiper: "wiper", b: "other end" },
    figures: [{ field: "ohm", label: "Ω", usual: "10k", isNeeded: true }],
  },
  {
    kind: "varying",
    label: "resistance that varies",
    letter: "V",
    legs: BOTH,
    figures: [
      { field: "least_ohm", label: "least Ω", usual: "1k", isNeeded: true },
      { field: "most_ohm", label: "most Ω", usual: "60k", isNeeded: true },
    ],
  },
  {
    kind: "regulator",
    label: "linear regulator",
    letter: "U",
    legs: { in: "input", out: "output", ground: "ground" },
    figures: [
      { field: "output_v", label: "gives V", usual: "5", isNeeded: true },
      { field: "max_a", label: "gives A", usual: "1", isNeeded: false },
    ],
  },
  {
    kind: "fuse",
    label: "fuse",
    letter: "F",
    legs: BOTH,
    figures: [{ field: "max_a", label: "blows at A", usual: "1", isNeeded: true }],
  },
  { kind: "wire", label: "plain wire", letter: "W", legs: BOTH, figures: [] },
];

export function kindOf(kind: Part["kind"]): KindOfPart {
  const found = PART_KINDS.find((one) => one.kind === kind);
  if (!found) throw new Error(`no such kind of part: ${kind}`);
  return found;
}
