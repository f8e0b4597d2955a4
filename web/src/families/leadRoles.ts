import { type Document, recordsAt } from "./document";

/** What a lead can be, seen from the device, as people say it. */
export const ROLES: Record<string, string> = {
  supply: "supply",
  ground: "ground",
  output: "digital output",
  analogue: "analogue output",
  input: "input",
  two_way: "in and out on one lead",
  sda: "I²C data",
  scl: "I²C clock",
  anode: "LED anode, the longer leg",
  cathode: "LED cathode, the flat side",
  collector: "phototransistor collector",
  emitter: "phototransistor emitter",
  battery: "battery to be measured",
};

const figure = (value: number) => ({ value, source: "a usual value; look yours up" });

const OUTPUT = { drive: "push_pull", low_v: figure(0.4) };
/** What the file says of a lead of each role besides, to begin with. */
const TAKES: Record<string, Record<string, unknown>> = {
  output: { output: OUTPUT },
  two_way: { output: OUTPUT },
  analogue: { analogue: { low_v: figure(0), high_v: figure(3) } },
  input: { input: { high_min_v: figure(2) } },
  anode: { emitter: { forward_v: figure(1.2), good_a: figure(0.015), max_a: figure(0.05) } },
};
const ONLY_SOME = ["output", "analogue", "input", "emitter"];

const SUPPLY = { min_v: figure(3), max_v: figure(5.5), typical_a: figure(0.005) };
const I2C = { addresses: [0x68], max_hz: figure(400_000), capacitance_f: figure(10e-12) };

/** The device with its leads as given, and just what such leads need said besides. */
export function withLeads(document: Document, leads: Record<string, unknown>[]): Document {
  const roles = new Set(leads.map((lead) => lead["role"]));
  const { i2c, ...rest } = document;
  const next: Document = { ...rest, leads: leads.map(fitted) };
  if (roles.has("sda") || roles.has("scl")) next["i2c"] = i2c ?? I2C;
  if (roles.has("supply")) next["supply"] ??= SUPPLY;
  return next;
}

function fitted(lead: Record<string, unknown>): Record<string, unknown> {
  const takes = TAKES[String(lead["role"])] ?? {};
  const kept = Object.fromEntries(Object.entries(lead).filter(([key]) => !ONLY_SOME.includes(key) || key in takes));
  return { ...takes, ...kept };
}

/** A lead to start from: an output of a name nobody has yet. */
export function anotherLead(document: Document): Record<string, unknown> {
  const names = new Set(recordsAt(document, "leads").map((lead) => lead["name"]));
  let number = 1;
  while (names.has(`OUT${number}`)) number += 1;
  return { name: `OUT${number}`, role: "output", labels: [`OUT${number}`] };
}
