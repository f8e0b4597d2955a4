import { expect, test } from "vitest";
import { partText, partValue } from "./partValue";

test.each([
  ["4k7", 4700],
  ["4,7k", 4700],
  ["100n", 1e-7],
  ["220 Ω", 220],
  ["0R22", 0.22],
])("%s is read as people mean it", (text, value) => {
  expect(partValue(text)).toBeCloseTo(value, 12);
});

test.each(["", "k", "1.8x", "4.7k7", "10,000", "-5"])("“%s” is no value, or may be two", (text) => {
  expect(partValue(text)).toBeNull();
});

test.each([1800, 4700, 1e-7, 0.22, 2.2e6])("%d is written so that it reads back", (value) => {
  expect(partValue(partText(value))).toBeCloseTo(value, 9);
});
