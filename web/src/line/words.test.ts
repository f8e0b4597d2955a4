import { describe, expect, it } from "vitest";
import { jitter, rate, shortNumber, statusWords } from "./words";

describe("numbers beside a live line", () => {
  it("are as fine as what is shown is high", () => {
    expect(shortNumber(0.12345, 0.5)).toBe("0.12");
    expect(shortNumber(0.12345, 0.005)).toBe("0.1235");
    expect(shortNumber(1012.4, 100)).toBe("1\u202f012");
    expect(shortNumber(3.14159, 0)).toBe("3.142");
    expect(shortNumber(512, 0.001)).toBe("512");
  });

  it("never show a number as nothing, nor nothing as a number", () => {
    expect(shortNumber(NaN, 1)).toBe("–");
    expect(shortNumber(Infinity, 1)).toBe("–");
    expect(shortNumber(0.5, 0)).toBe("0.5000");
    for (let value = 1.1e-12; value < 1e12; value *= 7.3) {
      expect(shortNumber(value, 0)).toMatch(/[1-9]/);
      expect(shortNumber(-value, 0)).toMatch(/^[-−]/);
    }
  });

  it("say rates, jitter and states in few words", () => {
    expect([rate(1234.5), rate(25.04), rate(0.5)]).toEqual(["1\u202f235", "25.0", "0.50"]);
    expect([jitter(null), jitter(250), jitter(2_500), jitter(25_000)]).toEqual([
      "–",
      "± 250 µs",
      "± 2.5 ms",
      "± 25 ms",
    ]);
    expect([statusWords("ok"), statusWords("no_echo")]).toEqual(["–", "no echo"]);
  });
});
