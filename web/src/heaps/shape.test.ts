import { describe, expect, it } from "vitest";
import { axisOf, decimalsOf, misreadBy, outline, ticksOf } from "./shape";

function heap(name: string, samples: number[]) {
  const values = [...new Set(samples)].sort((a, b) => a - b);
  const counts = values.map((value) => samples.filter((one) => one === value).length);
  const mean = samples.reduce((sum, one) => sum + one, 0) / samples.length;
  return { name, values, counts, n: samples.length, mean, sd: 1 };
}

function lane(dark: number[], light: number[]) {
  const [one, other] = [heap("black", dark), heap("white", light)];
  return { lane: "1", dark: one, light: other, others: [], between: 0, clipped: 0, d_prime: 9, why_not: "" };
}

describe("heaps", () => {
  it("stand on all of a converter, and on what they take up where they are no counts", () => {
    expect(axisOf([lane([700, 720], [200])])).toEqual({ low: 0, high: 1023 });
    expect(axisOf([lane([3900], [200])])).toEqual({ low: 0, high: 4095 });
    const { low, high } = axisOf([lane([3.9], [0.9])]);
    expect(low).toBeLessThan(0.9);
    expect(high).toBeGreaterThan(3.9);
    expect(axisOf([])).toEqual({ low: 0, high: 1 });
  });

  it.each([
    [1023, 0],
    [100, 0],
    [60, 1],
    [3.5, 2],
    [0.8, 3],
  ])("are read to a hundredth of what they span: %d to %d decimals", (high, decimals) => {
    const axis = { low: 0, high };
    expect(decimalsOf(axis)).toBe(decimals);
    const labels = ticksOf(axis).map((tick) => tick.toFixed(Math.max(0, decimals - 1)));
    expect(new Set(labels).size).toBe(labels.length);
  });

  it("have ticks that rise and lie on the axis", () => {
    for (const axis of [
      { low: 0, high: 1023 },
      { low: 0.66, high: 4.14 },
      { low: -3e-4, high: 2e-4 },
    ]) {
      const ticks = ticksOf(axis);
      expect(ticks.length).toBeGreaterThan(1);
      ticks.forEach((tick, n) => {
        expect(tick).toBeGreaterThanOrEqual(axis.low);
        expect(tick).toBeLessThanOrEqual(axis.high + 1e-9);
        if (n > 0) expect(tick).toBeGreaterThan(ticks[n - 1] ?? Infinity);
      });
    }
  });

  it("are misread by what lies on the wrong side, whichever way they read", () => {
    const dark = [700, 710, 500];
    const light = [200, 210, 620];
    expect(misreadBy(heap("black", dark), heap("white", light), 550)).toBe(2);
    expect(misreadBy(heap("black", light), heap("white", dark), 550)).toBe(2);
    expect(misreadBy(heap("black", dark), heap("white", light), 1000)).toBe(3);
    expect(misreadBy(heap("black", dark), heap("white", light), 450)).toBe(1);
  });

  it("are never wider than there is room", () => {
    const axis = { low: 0, high: 1023 };
    const path = outline(heap("black", [700, 700, 701, 740]), axis, (value) => value, 8, 70);
    const across = [...path.matchAll(/[ML] ([\d.]+) /g)].map((found) => Number(found[1]));
    expect(Math.max(...across)).toBeCloseTo(78, 9);
    expect(Math.min(...across)).toBe(8);
  });
});
