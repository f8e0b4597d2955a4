import { describe, expect, it } from "vitest";
import type { DrawnLine, Level, OutputSeen } from "../api/queries";
import type { Reads } from "../units/shown";
import { alignedData, pointsOf } from "./data";
import { heightRange, shownRange } from "./ranges";
import { tickLabels } from "./ticks";

/** A unit of which there are `scale` in one of SI. */
function unit(scale: number): Reads {
  const times = (x: number) => x * scale;
  return { unit: "u", decimals: 3, fromSi: times, toSi: (x) => x / scale, step: times };
}

function line(change: Partial<DrawnLine>): DrawnLine {
  const empty = { time_s: [], low: [], high: [], flag_s: [], flag: [], pauses: [] };
  return { ...empty, samples: 0, is_thinned: false, ...change };
}

function seen(change: Partial<OutputSeen>): OutputSeen {
  return { lines: [line({})], spread_at: [], spread: [], levels: [], ...change } as OutputSeen;
}

const level = (at: number): Level => ({ at, label: "x", side: "above", is_alarm: false });

describe("the window of a plot", () => {
  it("is all of the recording until somebody zooms", () => {
    expect(shownRange({ durationS: 40, range: null })).toEqual([0, 40]);
    expect(shownRange({ durationS: 40, range: [3, 5] })).toEqual([3, 5]);
  });

  it("is never without width", () => {
    const [from, to] = shownRange({ durationS: 0, range: null });
    expect(to).toBeGreaterThan(from);
  });

  it("begins at nought when all is shown, and holds the levels", () => {
    expect(heightRange({ range: null, seen: seen({}) }, 0.4, 1, unit(1))).toEqual([0, 1.1]);
    const [, top] = heightRange({ range: null, seen: seen({ levels: [level(2)] }) }, 0.4, 1, unit(1));
    expect(top).toBeGreaterThan(2);
  });

  it("goes below nought for what does", () => {
    const [low, high] = heightRange({ range: null, seen: seen({}) }, -1, 1, unit(1));
    expect(low).toBeLessThan(-1);
    expect(high).toBeGreaterThan(1);
  });

  it("closes about the values when zoomed, in whatever unit", () => {
    for (const scale of [1, 1 / 0.0254]) {
      const [low, high] = heightRange({ range: [0, 1], seen: seen({}) }, 0.5 * scale, 0.6 * scale, unit(scale));
      expect(low / scale).toBeCloseTo(0.485, 9);
      expect(high / scale).toBeCloseTo(0.615, 9);
    }
  });
});

describe("the band of uncertainty", () => {
  const drawn = seen({
    lines: [line({ time_s: [0, 1, 2, 3, 4], low: [0.5, 1.5, null, 3, 9], high: [0.5, 1.5, null, 3, 9] })],
    spread_at: [1, 2],
    spread: [0.1, 0.3],
  });

  it("is interpolated between where it is known, and held beyond", () => {
    const [, upper, lower, values] = alignedData(drawn, unit(1));
    const half = (upper as number[]).map((value, index) =>
      value === null ? null : value - ((values as number[])[index] ?? 0),
    );
    expect(half.map((value) => value && Number(value.toFixed(9)))).toEqual([0.1, 0.2, null, 0.3, 0.3]);
    expect((lower as number[])[1]).toBeCloseTo(1.3, 9);
  });

  it("scales with the unit and breaks where the line breaks", () => {
    const [, upper, , values] = alignedData(drawn, unit(100));
    expect(values).toEqual([50, 150, null, 300, 900]);
    expect((upper as (number | null)[])[2]).toBeNull();
    expect((upper as number[])[0]).toBeCloseTo(60, 9);
  });

  it("is nothing when nothing is known of it", () => {
    const [, upper, , values] = alignedData({ ...drawn, spread_at: [], spread: [] }, unit(1));
    expect(upper).toEqual(values);
  });

  it("leaves room for every lane", () => {
    const [first] = drawn.lines;
    if (!first) throw new Error("there is a line");
    const two = alignedData({ ...drawn, lines: [first, { ...first, low: [9, 8, 7, 6, 5] }] }, unit(1));
    expect(two.length).toBe(5);
    expect(two[4]).toEqual([9, 8, 7, 6, 5]);
  });
});

describe("a thinned line", () => {
  it("goes from lowest to highest within each column", () => {
    const { t, v } = pointsOf(line({ time_s: [0, 1], low: [1, 2], high: [3, 4], is_thinned: true }));
    expect(v).toEqual([1, 3, 2, 4]);
    expect(t).toEqual([0, 0.5, 1, 1.5]);
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
