import { describe, expect, it } from "vitest";
import { inWords, spelled } from "./words";

describe("filters in words", () => {
  it("are taken apart and put together the same", () => {
    for (const words of ["median:n=5", "kalman:q=0.001,r=0.04", "slew"]) expect(inWords(spelled(words))).toBe(words);
  });
  it("know their settings by name", () => {
    expect(spelled("low-pass:hz=2.5,order=2")).toEqual({ name: "low-pass", settings: { hz: 2.5, order: 2 } });
  });
});
