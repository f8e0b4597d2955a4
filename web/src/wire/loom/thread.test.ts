import { describe, expect, it } from "vitest";
import { middleOf, softLine } from "./thread";

const RUN = [
  { x: 0, y: 0 },
  { x: 100, y: 0 },
  { x: 100, y: 60 },
  { x: 240, y: 60 },
];

describe("a thread", () => {
  it("goes from its first point to its last", () => {
    const path = softLine(RUN);
    expect(path.startsWith("M 0 0")).toBe(true);
    expect(path.endsWith("L 240 60")).toBe(true);
  });

  it("is rounded at every corner, and never farther than half way to the next", () => {
    const numbers = [...softLine(RUN).matchAll(/L ([\d.]+) ([\d.]+) C [\d.]+ [\d.]+ [\d.]+ [\d.]+ ([\d.]+) ([\d.]+)/g)];
    expect(numbers).toHaveLength(2);
    expect(numbers.map((one) => one.slice(1).map(Number))).toEqual([
      [74, 0, 100, 26],
      [100, 34, 126, 60],
    ]);
    expect(
      softLine([
        { x: 0, y: 0 },
        { x: 10, y: 0 },
        { x: 10, y: 80 },
      ]),
    ).toContain("L 5 0");
  });

  it("is nothing without two points", () => {
    expect(softLine([])).toBe("");
    expect(softLine([{ x: 1, y: 2 }])).toBe("");
  });

  it("has its middle half way along it, whatever its corners", () => {
    expect(middleOf(RUN)).toEqual({ x: 100, y: 50 });
    expect(middleOf([{ x: 4, y: 4 }])).toEqual({ x: 4, y: 4 });
  });
});
