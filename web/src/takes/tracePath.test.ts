import { describe, expect, it } from "vitest";
import { HEIGHT, WIDTH, tracePath } from "./tracePath";

const points = (path: string) =>
  [...path.matchAll(/[ML]([-\d.]+) ([-\d.]+)/g)].map((one) => [Number(one[1]), Number(one[2])] as const);

describe("the picture of a recording in a list", () => {
  it("fills its height and width and stays inside", () => {
    const time_s = Array.from({ length: 50 }, (_, n) => n);
    const low = time_s.map((t) => 1e6 + Math.sin(t));
    const at = points(tracePath({ time_s, low, high: low }, 49));
    expect(Math.min(...at.map(([x]) => x))).toBe(0);
    expect(Math.max(...at.map(([x]) => x))).toBe(WIDTH);
    for (const [, y] of at) expect(y >= 4 && y <= HEIGHT - 4).toBe(true);
    expect(Math.max(...at.map(([, y]) => y)) - Math.min(...at.map(([, y]) => y))).toBe(HEIGHT - 8);
  });

  it("draws no line where there was no value", () => {
    const low = [1, 2, null, 3, 4];
    const path = tracePath({ time_s: [0, 1, 2, 3, 4], low, high: low }, 4);
    expect(path.split("M")).toHaveLength(3);
    expect(points(path)).toHaveLength(4);
  });

  it("shows both ends of what was thinned, and nothing of nothing", () => {
    const path = tracePath({ time_s: [0, 1], low: [0, 1], high: [2, 1] }, 1);
    expect(points(path)).toHaveLength(3);
    expect(tracePath({ time_s: [0], low: [null], high: [null] }, 1)).toBe("");
  });

  it("draws what never changes as a level line", () => {
    const ys = points(tracePath({ time_s: [0, 1], low: [7, 7], high: [7, 7] }, 1)).map(([, y]) => y);
    expect(new Set(ys).size).toBe(1);
  });
});
