import { describe, expect, it } from "vitest";
import type { Comparison, FilterKind } from "./queries";
import { firstFive, inWords, numberIn, spelled, usual } from "./words";

const input = (name: string, usualValue: number) => ({ name, default: usualValue, form: "number", low: 0, high: null });
const KINDS = [
  { name: "median", inputs: [input("n", 5)] },
  { name: "mean", inputs: [input("n", 5)] },
  { name: "exponential", inputs: [input("a", 0.2)] },
  { name: "low-pass", inputs: [input("hz", 2), input("order", 1)] },
  { name: "kalman", inputs: [input("q", 1e-3), input("r", 4e-2)] },
  { name: "kalman-speed", inputs: [input("q", 1e-2), input("r", 4e-2)] },
  { name: "slew", inputs: [input("per_s", 1)] },
] as unknown as FilterKind[];
const kind = (name: string) => KINDS.find((one) => one.name === name) as FilterKind;
const told = (q: number, r: number) =>
  ({
    gap_s: 0.02,
    suggested: { q_likely: q, r_likely: r, q_fast: 1, r: 0.09, fastest: 12.34567, share: 0.1 },
  }) as Comparison;

describe("filters in words", () => {
  it("are taken apart and put together the same", () => {
    for (const words of ["median:n=5", "kalman:q=0.001,r=0.04", "slew"]) expect(inWords(spelled(words))).toBe(words);
  });

  it("know their settings by name", () => {
    expect(spelled("low-pass:hz=2.5,order=2")).toEqual({ name: "low-pass", settings: { hz: 2.5, order: 2 } });
  });

  it("are as usual before anything is known of a recording", () => {
    expect(usual(kind("kalman"), undefined)).toBe("kalman:q=0.001,r=0.04");
    expect(usual(kind("low-pass"), undefined)).toBe("low-pass:hz=2,order=1");
  });

  it("begin with what the recording suggests", () => {
    expect(spelled(usual(kind("kalman"), told(0.01, 0.5))).settings).toEqual({ q: 0.01, r: 0.5 });
    // Of what stood still all the time the likeliest follows nothing: that is no filter to begin with.
    expect(spelled(usual(kind("kalman"), told(1e-12, 0.5))).settings["q"]).toBeCloseTo(5e-5, 9);
    expect(spelled(usual(kind("low-pass"), told(1, 1))).settings).toEqual({ hz: 3, order: 1 });
    expect(spelled(usual(kind("slew"), told(1, 1))).settings).toEqual({ per_s: 12.3 });
    const { q = 0, r = 0 } = spelled(usual(kind("kalman-speed"), told(1, 1))).settings;
    expect(r).toBeCloseTo(0.09, 9);
    expect(r / q).toBeCloseTo(0.2 ** 3, 6);
  });

  it("are five to begin with, whichever more there are", () => {
    const five = firstFive(KINDS, told(0.01, 0.5)).map((words) => spelled(words).name);
    expect(five).toEqual(["median", "mean", "exponential", "low-pass", "kalman"]);
    expect(firstFive(KINDS.slice(0, 2), told(1, 1))).toHaveLength(2);
  });
});

describe("a setting as it is typed", () => {
  const between = { form: "number", low: 0.5, high: 9 } as const;

  it("is a number within its bounds, with a comma or a point", () => {
    expect(numberIn(between, "2,5")).toBe(2.5);
    expect(numberIn(between, " 9 ")).toBe(9);
    expect(numberIn({ form: "number", low: null, high: null }, "-1e3")).toBe(-1000);
  });

  it("is none while it cannot be one", () => {
    for (const typed of ["", " ", "-", "1e", "x", "0.4", "9.1", "Infinity", "1;5"]) {
      expect(numberIn(between, typed), typed).toBeNull();
    }
  });

  it("is whole where only whole ones count", () => {
    expect(numberIn({ form: "whole", low: 1, high: 99 }, "4.6")).toBe(5);
  });
});
