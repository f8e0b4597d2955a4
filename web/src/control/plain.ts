import type { Reads } from "../units/shown";

/** A number as it stands in its column: whoever recorded it knows its unit. */
export const PLAIN: Reads = {
  unit: "",
  decimals: 2,
  fromSi: (value) => value,
  toSi: (value) => value,
  step: (value) => value,
};
