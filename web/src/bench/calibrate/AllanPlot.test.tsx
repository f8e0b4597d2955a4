import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { AllanPlot } from "./AllanPlot";

const rate = { unit: "°/s", scale: 180 / Math.PI, offset: 0, decimals: 2 };
const reads = { lanes: ["x", "y", "z"], small: { metric: rate, imperial: rate } } as Schemas["QuantityOut"];
const DEGREE = Math.PI / 180;
const white = Array.from({ length: 13 }, (_, n) => {
  const tau = 0.1 * 10 ** (n / 4);
  return [tau, ...[0.1, 0.2, 0.4].map((sigma) => (sigma * DEGREE) / Math.sqrt(tau))];
});
const drawn = (points: number[][]) => renderToStaticMarkup(<AllanPlot points={points} reads={reads} />);
const lines = (markup: string) =>
  [...markup.matchAll(/polyline points="([^"]*)"/g)].map((one) =>
    (one[1] ?? "").split(" ").map((point) => point.split(",").map(Number) as [number, number]),
  );

describe("noise that is left after averaging", () => {
  it("falls on a straight line where it is white, an axis each", () => {
    const axes = lines(drawn(white));
    expect(axes).toHaveLength(3);
    for (const points of axes) {
      const steps = points.slice(1).map(([x, y], n) => (y - (points[n]?.[1] ?? 0)) / (x - (points[n]?.[0] ?? 0)));
      for (const step of steps) expect(step).toBeCloseTo(steps[0] ?? 0, 6);
      // Down the page the numbers grow: what is left sinks.
      expect(steps[0]).toBeGreaterThan(0);
    }
    // Twice the noise lies as far above at every time.
    const [low, middle, high] = axes.map((points) => points[4]?.[1] ?? 0);
    expect((low ?? 0) - (middle ?? 0)).toBeCloseTo((middle ?? 0) - (high ?? 0), 6);
  });

  it("stays within its picture and names its tens", () => {
    const markup = drawn(white);
    for (const [x, y] of lines(markup).flat()) {
      expect(x).toBeGreaterThanOrEqual(64);
      expect(x).toBeLessThanOrEqual(606);
      expect(y).toBeGreaterThanOrEqual(12);
      expect(y).toBeLessThanOrEqual(190);
    }
    for (const name of ["0.1 s", "1 s", "10 s", "100 s", "0.01", "in °/s"]) expect(markup).toContain(name);
  });

  it("is not drawn of next to nothing, nor of an axis that never changed", () => {
    expect(drawn(white.slice(0, 2))).toBe("");
    expect(drawn(white.map((row) => [...row.slice(0, 3), 0]))).toBe("");
  });
});
