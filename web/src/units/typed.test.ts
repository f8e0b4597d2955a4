import { describe, expect, test } from "vitest";
import cases from "../../../tests/typed_numbers.json";
import { numberOrNull, typedNumber, typingProblem } from "./typed";

describe("numbers as people type them, by the list the command line is tried with", () => {
  test.each(cases.read as [string, string, number][])("“%s” in %s is %d", (text, unit, value) => {
    expect(typedNumber(text, unit)).toBeCloseTo(value, 12);
  });

  test.each(cases.refused as [string, string, string][])("“%s” in %s is refused: %s", (text, unit, words) => {
    expect(() => typedNumber(text, unit)).toThrow(words);
    expect(numberOrNull(text, unit)).toBeNull();
    expect(typingProblem(text, unit)).toContain(words);
  });

  test("an empty field is no mistake", () => {
    expect(typingProblem(" ")).toBeUndefined();
    expect(numberOrNull("")).toBeNull();
  });
});
