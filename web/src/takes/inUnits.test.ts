import { describe, expect, it } from "vitest";
import { markInUnits, selectionInUnits, seriesInUnits } from "./inUnits";

const length = {
  metric: { lane: null, unit: "m", scale: 1, offset: 0, decimals: 3 },
  imperial: { unit: "in", scale: 1 / 0.0254, offset: 0, decimals: 2 },
};

const plain = { unit: "µs", scale: 1, offset: 0, decimals: 0 };

const series = {
  shown: length,
  channel: 0,
  stage: "median",
  unit: "m",
  time_s: [0, 1, 2],
  low: [0.254, null, 0],
  high: [0.508, null, 0],
  flag_s: [],
  flag: [],
  samples: 3,
  is_thinned: true,
  pauses: [],
};

describe("recordings in inches", () => {
  it("scale what a stage made, keep what has no value, and leave what is raw as it came", () => {
    const shown = seriesInUnits("imperial", series);
    expect(shown.unit).toBe("in");
    expect(shown.low[0]).toBeCloseTo(10, 12);
    expect(shown.high[0]).toBeCloseTo(20, 12);
    expect([shown.low[1], shown.low[2], shown.time_s[2]]).toEqual([null, 0, 2]);
    expect(seriesInUnits("imperial", { ...series, stage: "" })).toEqual({ ...series, stage: "" });
    const times = { ...series, shown: { metric: plain, imperial: plain } };
    expect(seriesInUnits("imperial", times).low).toEqual(series.low);
    expect(seriesInUnits("metric", series)).toEqual(series);
  });

  it("scale every length of a selection and no time", () => {
    const found = {
      shown: length, unit: "m", n: 9, flagged: 1, mean: 0.254, sd: 0.0254, lowest: 0, highest: 1,
      rate_hz: 20, interval_sd_s: 0.1,
      at_from_s: 1, at_from: 0.254, at_to_s: 2, at_to: null, pulses: 3, pulse_hz: 4, histogram_edges: [0.254],
      histogram: [9], spectrum_hz: [1], spectrum: [0.0254], spectrum_unit: "m/√Hz", spectrum_note: "",
    }; // prettier-ignore
    const shown = selectionInUnits("imperial", found, "median");
    expect(shown.mean).toBeCloseTo(10, 12);
    expect(shown.sd).toBeCloseTo(1, 12);
    expect(shown.histogram_edges[0]).toBeCloseTo(10, 12);
    expect(shown.spectrum[0]).toBeCloseTo(1, 12);
    expect([shown.unit, shown.spectrum_unit, shown.at_to, shown.lowest]).toEqual(["in", "in/√Hz", null, 0]);
    expect([shown.rate_hz, shown.interval_sd_s, shown.pulse_hz, shown.histogram]).toEqual([20, 0.1, 4, [9]]);
    expect(selectionInUnits("imperial", found, "")).toBe(found);
  });

  it("show a true value with its uncertainty", () => {
    const mark = {
      id: 1, take_id: 1, sensor_id: null, calibration: "", pose: "", channel: 0, name: "nail", start_s: 1, end_s: 2,
      value: 0.508, u: 0.0254, unit: "m", lane: null,
    }; // prettier-ignore
    const shown = markInUnits("imperial", mark);
    expect(shown.value).toBeCloseTo(20, 12);
    expect(shown.u).toBeCloseTo(1, 12);
    expect(markInUnits("imperial", { ...mark, value: null, u: null }).value).toBeNull();
    expect(markInUnits("imperial", { ...mark, unit: "g" }).unit).toBe("g");
  });
});
