import { describe, expect, it } from "vitest";
import type { View } from "../api/queries";
import { alignedData } from "./data";
import type { PlotProps } from "./props";
import { heightRange, shownRange } from "./ranges";
import { tickLabels } from "./ticks";

function props(change: Partial<PlotProps>): PlotProps {
  const view = { duration_s: 40 } as View;
  return { view, range: null, onRange: () => {}, onAt: () => {}, csvHref: "", name: "", ...change };
}

describe("the window of a plot", () => {
  it("is all of the recording until somebody zooms", () => {
    expect(shownRange(props({}))).toEqual([0, 40]);
    expect(shownRange(props({ range: [3, 5] }))).toEqual([3, 5]);
  });

  it("is never without width", () => {
    const [from, to] = shownRange(props({ view: { duration_s: 0 } as View }));
    expect(to).toBeGreaterThan(from);
  });

  it("begins at nought when all is shown, and holds the threshold", () => {
    expect(heightRange(props({}), 0.4, 1, 1)).toEqual([0, 1.1]);
    const [, top] = heightRange(props({ threshold: { stop_m: 1, go_m: 2 } }), 0.4, 1, 1);
    expect(top).toBeGreaterThan(2);
  });

  it("closes about the values when zoomed, in whatever unit", () => {
    for (const perMetre of [1, 1 / 0.0254]) {
      const [low, high] = heightRange(props({ range: [0, 1] }), 0.5 * perMetre, 0.6 * perMetre, perMetre);
      expect(low / perMetre).toBeCloseTo(0.485, 9);
      expect(high / perMetre).toBeCloseTo(0.615, 9);
    }
  });
});

describe("the band of uncertainty", () => {
  const view = {
    time_s: [0, 1, 2, 3, 4],
    distance_m: [0.5, 1.5, null, 3, 9],
    spread_at_m: [1, 2],
    spread_m: [0.1, 0.3],
  } as View;

  it("is interpolated between where it is known, and held beyond", () => {
    const [, distance, upper, lower] = alignedData(view, 1);
    const half = (upper as number[]).map((value, index) =>
      value === null ? null : value - ((distance as number[])[index] ?? 0),
    );
    expect(half.map((value) => value && Number(value.toFixed(9)))).toEqual([0.1, 0.2, null, 0.3, 0.3]);
    expect((lower as number[])[1]).toBeCloseTo(1.3, 9);
  });

  it("scales with the unit and breaks where the line breaks", () => {
    const [, distance, upper] = alignedData(view, 100);
    expect(distance).toEqual([50, 150, null, 300, 900]);
    expect((upper as (number | null)[])[2]).toBeNull();
    expect((upper as number[])[0]).toBeCloseTo(60, 9);
  });

  it("is nothing when nothing is known of it", () => {
    const [, distance, upper] = alignedData({ ...view, spread_at_m: [], spread_m: [] }, 1);
    expect(upper).toEqual(distance);
  });
});

describe("the labels of an axis", () => {
  it("have the same decimals all along, as many as the step needs", () => {
    expect(tickLabels([0, 0.25, 0.5, 0.75, 1], "m")).toEqual(["0.00", "0.25", "0.50", "0.75", "1.00 m"]);
    expect(tickLabels([0.9, 1, 1.1], "")).toEqual(["0.9", "1.0", "1.1"]);
    expect(tickLabels([0, 5, 10], "V")).toEqual(["0", "5", "10 V"]);
  });

  it("are all different, whatever the axis", () => {
    for (let power = -9; power < 14; power++) {
      for (const factor of [1, 2, 2.5, 5]) {
        const step = factor * 10 ** power;
        const labels = tickLabels(
          [-2, -1, 0, 1, 2].map((n) => n * step),
          "",
        );
        expect(new Set(labels).size, `${step}`).toBe(5);
      }
    }
  });

  it("say something of an axis of one, or of none", () => {
    expect(tickLabels([3], "m")).toEqual(["3 m"]);
    expect(tickLabels([], "m")).toEqual([]);
  });
});
