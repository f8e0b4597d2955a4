import { describe, expect, it } from "vitest";
import { prefixFor } from "./prefixes";
import { type Quantity, decimalsFor, display, grouped, measured, quantityText } from "./units";

const QUANTITIES: Quantity[] = ["length", "smallLength", "temperature", "temperatureStep", "speed", "acceleration"];

describe("units", () => {
  it("come back to SI as they left it", () => {
    for (const system of ["metric", "imperial"] as const) {
      for (const quantity of QUANTITIES) {
        const shown = display(system, quantity);
        for (const si of [-40, 0, 0.001, 1, 331.46]) {
          expect(shown.toSi(shown.fromSi(si)), `${system} ${quantity}`).toBeCloseTo(si, 9);
        }
      }
    }
  });

  it("are those of the international yard and of Fahrenheit", () => {
    expect(display("imperial", "length").fromSi(0.9144)).toBeCloseTo(36, 9);
    expect(display("imperial", "speed").fromSi(0.44704)).toBeCloseTo(1, 9);
    expect(display("imperial", "temperature").fromSi(-40)).toBeCloseTo(-40, 9);
    expect(display("imperial", "temperature").fromSi(100)).toBeCloseTo(212, 9);
    // A difference of temperatures has no zero point.
    expect(display("imperial", "temperatureStep").fromSi(10)).toBeCloseTo(18, 9);
  });

  it("show a value with as many decimals as its uncertainty is worth", () => {
    expect(measured("metric", "length", 0.99537, 0.0042)).toEqual(["0.995", "0.004", "m"]);
    expect(measured("metric", "length", 0.99537, 0.0012)).toEqual(["0.9954", "0.0012", "m"]);
    expect(measured("imperial", "length", 0.99537, 0.0042)).toEqual(["39.19", "0.17", "in"]);
    expect(measured("imperial", "temperature", 20, 1)).toEqual(["68.0", "1.8", "°F"]);
    expect(quantityText("imperial", "length", 1, 3)).toBe("39.37 in");
  });

  it("never show fewer decimals for a smaller uncertainty", () => {
    let before = 0;
    for (let spread = 50; spread > 1e-5; spread /= 1.07) {
      const decimals = decimalsFor(spread);
      expect(decimals).toBeGreaterThanOrEqual(before);
      // One or two figures of it are shown.
      if (spread > 1e-4 && spread < 1) expect(Number(spread.toFixed(decimals))).toBeGreaterThan(0);
      before = decimals;
    }
    expect(decimalsFor(0)).toBe(3);
    expect(decimalsFor(Number.NaN)).toBe(3);
  });
});

describe("digits", () => {
  it("are grouped, with a true minus, and nothing is below nought that rounds to it", () => {
    expect(grouped(1234567.891, 2)).toBe("1\u202f234\u202f567.89");
    expect(grouped(-0.004, 2)).toBe("0.00");
    expect(grouped(-12.5, 1)).toBe("−12.5");
    expect(grouped(999, 0)).toBe("999");
  });

  it("take the prefix that suits their size", () => {
    expect(prefixFor(0.0147, "A")).toEqual([1e-3, "mA"]);
    expect(prefixFor(-4700, "Ω")).toEqual([1e3, "kΩ"]);
    expect(prefixFor(0, "V")).toEqual([1, "V"]);
    expect(prefixFor(0.2, "m")).toEqual([1, "m"]);
  });
});
