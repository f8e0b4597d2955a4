import { describe, expect, it } from "vitest";
import { duration, figures, frequency, plotTime, scatter, shortTime, trueValue, within } from "./words";
import type { TakeMark } from "./queries";

describe("durations", () => {
  it("are said in the units one would say them in", () => {
    expect(duration(0.25)).toBe("250 ms");
    expect(duration(12.44)).toBe("12.4 s");
    expect(duration(200)).toBe("3 min 20 s");
    expect(duration(10_000)).toBe("2 h 47 min");
  });

  it("never say sixty seconds or sixty minutes, nor go back in time", () => {
    const seconds = (text: string) => {
      const found = [...text.matchAll(/([\d.\u202f]+) (ms|s|min|h)/g)].map(
        ([, number = "", unit = ""]) =>
          Number(number.replaceAll("\u202f", "")) * ({ ms: 0.001, s: 1, min: 60, h: 3600 }[unit] ?? NaN),
      );
      return found.reduce((sum, one) => sum + one, 0);
    };
    let before = 0;
    for (let s = 0.0004; s < 90_000; s *= 1.004) {
      const text = duration(s);
      expect(text).not.toMatch(/\b60 s|h 60 min/);
      expect(text).not.toMatch(/^1.?000 ms/);
      const said = seconds(text);
      expect(said).toBeGreaterThanOrEqual(before);
      expect(Math.abs(said - s)).toBeLessThanOrEqual(Math.max(0.0005, s >= 7199 ? 30 : s >= 119 ? 0.51 : 0.0501));
      before = said;
    }
  });

  it("are as fine as the window they are in", () => {
    expect(plotTime(12.34567, 300)).toBe("12.3 s");
    expect(plotTime(12.34567, 3)).toBe("12.346 s");
    expect(plotTime(0.0004512, 0.01)).toBe("0.000451 s");
    expect(shortTime(1.5)).toBe("1.500 s");
    expect(shortTime(-0.0125)).toBe("−12.500 ms");
    expect(shortTime(0.000042)).toBe("42 µs");
  });
});

describe("figures", () => {
  it("are about four, of any size, and none for what is not known", () => {
    expect(figures(1234.5678)).toBe("1\u202f234.6");
    expect(figures(0.00123456)).toBe("0.0012346");
    expect(figures(5e12)).toBe("5.000e+12");
    expect(figures(0)).toBe("0");
    expect(figures(null)).toBe("–");
    expect(figures(NaN)).toBe("–");
  });

  it("stand beside an uncertainty with no more decimals than it is worth", () => {
    expect(within(1.23456, 0.01)).toBe("1.235");
    expect(within(1.23456, 1)).toBe("1.2");
    expect(within(7, null)).toBe("7");
    expect(within(1.23456, 0)).toBe("1.2346");
    expect(within(null, 0.1)).toBe("–");
    expect(scatter(0.01234)).toBe("0.012");
    expect(scatter(0)).toBe("0");
    expect(scatter(null)).toBe("–");
  });

  it("say a frequency finely where it is low", () => {
    expect(frequency(123.456)).toBe("123.5 Hz");
    expect(frequency(1.23456)).toBe("1.235 Hz");
    expect(frequency(0.0123456)).toBe("0.01235 Hz");
    expect(frequency(null)).toBe("–");
  });

  it("give a true value as it was typed where nobody said how well it is known", () => {
    const mark = { value: 0.30000000000000004, u: null, unit: "m" } as TakeMark;
    expect(trueValue(mark)).toBe("0.3 m");
    expect(trueValue({ ...mark, u: 0.002 })).toBe("0.300 m");
    expect(trueValue({ ...mark, value: null })).toBe("");
    expect(trueValue({ ...mark, value: 4, unit: "" })).toBe("4");
  });
});
