import { prefixFor } from "../units/prefixes";
import { type Path, isRecord } from "./document";

/** A figure somewhere in a family's description. */
export interface FoundFigure {
  path: Path;
  title: string;
  value: number;
  source: string;
}

const UNITS: Record<string, string> = { v: "V", a: "A", ohm: "Ω", hz: "Hz", s: "s", f: "F", rad: "rad" };
const LISTS = new Set(["pin_classes", "rails", "ports", "leads", "references"]);

/** Fields whose names in the file are too short to be understood beside a number. */
const WORDS: Record<string, string> = {
  logic_v: "logic level",
  total_a: "all pins together, at most",
  limit_a: "gives at most",
  high_min_v: "reliable high from",
  low_max_v: "reliable low up to",
  absolute_max_v: "destroyed beyond",
  drive_a: "drives",
  absolute_a: "destroyed beyond, current",
  output_high_v: "its high",
  output_low_v: "its low",
  pull_up_ohm: "own pull-up",
  conversion_s: "one conversion takes",
  source_ohm: "wants a source up to",
  own_pull_up_ohm: "pull-up on the module",
  good_pull_up_ohm: "usual pull-up",
  pulls_to_v: "pull-up goes to",
  sink_a: "sinks at most",
  low_v: "low",
  high_v: "high",
  current_a: "takes",
  forward_v: "forward volts",
  good_a: "good current",
  max_a: "most current",
  pulses_hz: "pulses up to",
  min_v: "from",
  max_v: "up to",
  typical_a: "takes in work",
  peak_a: "takes for a moment",
  max_hz: "clock up to",
  capacitance_f: "capacitance",
  blocking_s: "program waits",
  interleaved_s: "started and fetched",
  quiet_s: "least pause",
  beam_rad: "hears others of its kind within",
  i2c: "I²C",
};

/** Every figure of a description, in its order, with a readable name. */
export function figuresOf(document: unknown, path: Path = [], title = ""): FoundFigure[] {
  if (Array.isArray(document)) {
    return document.flatMap((item: unknown, index) => figuresOf(item, [...path, index], itemTitle(title, item, index)));
  }
  if (!isRecord(document)) return [];
  if (typeof document["value"] === "number" && typeof document["source"] === "string") {
    return [{ path, title, value: document["value"], source: document["source"] }];
  }
  return Object.entries(document).flatMap(([key, value]) => figuresOf(value, [...path, key], fieldTitle(title, key)));
}

/** What an item of a list is called: by its name, or its place. */
export function itemTitle(title: string, item: unknown, index: number): string {
  const name = isRecord(item) && typeof item["name"] === "string" ? item["name"] : String(index + 1);
  return [title, name].filter(Boolean).join(" ");
}

/** What a field is called, its unit left out: that stands beside the number. */
export function fieldTitle(title: string, key: string): string {
  return [title, LISTS.has(key) ? "" : words(key)].filter(Boolean).join(" ");
}

export function unitOf(path: Path): string {
  const field = path.findLast((part) => typeof part === "string") ?? "";
  if (field === "volts") return "V";
  return UNITS[field.split("_").at(-1) ?? ""] ?? "";
}

/** What one of the unit shown is in SI, and that unit: degrees for angles, else the prefix that suits. */
export function shownUnit(value: number, path: Path): [number, string] {
  const unit = unitOf(path);
  return unit === "rad" ? [Math.PI / 180, "°"] : prefixFor(value, unit);
}

/** The size in SI that a figure not known yet is mostly of: it is asked for in mA, not in A. */
export function usualSize(path: Path): number {
  return { A: 1e-3, s: 1e-3, F: 1e-12 }[unitOf(path)] ?? 1;
}

function words(key: string): string {
  if (key in WORDS) return WORDS[key] ?? "";
  const parts = key.split("_");
  return (UNITS[parts.at(-1) ?? ""] ? parts.slice(0, -1) : parts).join(" ");
}
