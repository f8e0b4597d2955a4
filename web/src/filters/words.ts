import { numberOrNull } from "../units/typed";
import type { Input } from "../units/inputs";
import type { Comparison, FilterKind } from "./queries";

/** A filter as it is typed: its name, and its settings by name. */
export interface Spelled {
  name: string;
  settings: Record<string, number>;
}

export function spelled(words: string): Spelled {
  const [name = "", rest = ""] = words.split(/:(.*)/s);
  const settings: Record<string, number> = {};
  for (const pair of rest.split(",").filter(Boolean)) {
    const [key = "", value = ""] = pair.split("=");
    settings[key.trim()] = Number(value);
  }
  return { name: name.trim(), settings };
}

export function inWords({ name, settings }: Spelled): string {
  const pairs = Object.entries(settings).map(([key, value]) => `${key}=${Number(value.toPrecision(6))}`);
  return pairs.length > 0 ? `${name}:${pairs.join(",")}` : name;
}

/** A filter of a kind with every setting at its default, or at what the recording itself suggests. */
export function usual(kind: FilterKind, told: Comparison | undefined): string {
  const settings: Record<string, number> = {};
  for (const input of kind.inputs) {
    if (typeof input.default === "number") settings[input.name] = input.default;
  }
  if (told && kind.name === "kalman") {
    // Where nothing moves the likeliest follows nothing either: too little to begin with.
    settings["q"] = Math.max(told.suggested.q_likely, 1e-4 * told.suggested.r_likely);
    settings["r"] = told.suggested.r_likely;
  }
  if (told && kind.name === "kalman-speed") {
    const overS = 10 * told.gap_s;
    settings["r"] = told.suggested.r;
    settings["q"] = told.suggested.r / overS ** 3;
  }
  if (told && kind.name === "low-pass") settings["hz"] = Number((0.06 / told.gap_s).toPrecision(2));
  if (told && kind.name === "slew") settings["per_s"] = Number(Math.max(told.suggested.fastest, 1e-9).toPrecision(3));
  return inWords({ name: kind.name, settings });
}

/** The five that most people try. */
export function firstFive(kinds: FilterKind[], told: Comparison): string[] {
  return ["median", "mean", "exponential", "low-pass", "kalman"]
    .map((name) => kinds.find((kind) => kind.name === name))
    .filter((kind) => kind !== undefined)
    .map((kind) => usual(kind, told));
}

/** What is typed as a number that the input takes; null where it cannot be one. */
export function numberIn(input: Pick<Input, "form" | "low" | "high">, typed: string): number | null {
  const number = numberOrNull(typed) ?? Number.NaN;
  const fits = number >= (input.low ?? -Infinity) && number <= (input.high ?? Infinity) && Number.isFinite(number);
  return !fits ? null : input.form === "whole" ? Math.round(number) : number;
}
