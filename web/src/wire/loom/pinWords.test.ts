import { expect, test } from "vitest";
import { pinWords } from "./pinWords";

const state = (
  when: string,
  low_v: number | null,
  usual_v: number | null,
  high_v: number | null,
  amps: number | null,
) => ({
  when,
  low_v,
  usual_v,
  high_v,
  amps,
});

test("volts with their span, and what the pin gives or takes", () => {
  expect(
    pinWords([
      state("ECHO high", 4.74, 5, 5.26, null),
      state("D9 high", 4.1, 4.4, 4.6, 0.0121),
      state("D9 low", 0, 0.2, 0.4, -0.012),
    ]),
  ).toEqual([
    "ECHO high: 5.00 V (4.74 to 5.26)",
    "D9 high: 4.40 V (4.10 to 4.60), gives 12 mA",
    "D9 low: 0.20 V (0.00 to 0.40), takes 12 mA",
  ]);
});

test("a pin nobody holds has no volts, and a leak is no current", () => {
  expect(pinWords([state("at rest", null, null, null, null), state("low", -0.001, 0, 0.001, 2e-6)])).toEqual([
    "at rest: held by nothing",
    "low: 0.00 V",
  ]);
});
