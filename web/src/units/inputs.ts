import type { Schemas } from "../api/client";

/** One input as it is described: its name, label, form, unit, bounds and choices. */
export type Input = Schemas["InputOut"];
export type Value = boolean | number | string | number[] | null;
export type Values = Record<string, Value>;

/** Those inputs of a form that say something, given the others; each with its value. */
export function asked(inputs: Input[], values: Values): Input[] {
  return inputs.filter((one) => !one.when || values[one.when.name] === one.when.value);
}
