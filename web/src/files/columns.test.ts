import { describe, expect, it } from "vitest";
import { type LogFile, type Use, formOf, guessedUse, keyOf, twice, withKey } from "./columns";

const FORMS = [
  { role: "gap", form: "whole", units: ["µs", "ms"], most_columns: 1 },
  { role: "light", form: "counts", units: ["counts"], most_columns: 3 },
  { role: "light", form: "volts", units: ["V"], most_columns: 3 },
];
const FILE = {
  columns: [0, 1, 2, 3].map((number) => ({ number, sensor_id: 5, role: "light", form: "counts", unit: "counts" })),
  sensors: [{ sensor_id: 5, forms: FORMS }],
} as unknown as LogFile;
const use = (role: string, form: string, unit = ""): Use => ({ sensor_id: 5, role, form, unit });

describe("what a column is used for", () => {
  it("is one choice of a list, and back", () => {
    for (const { role, form, units } of FORMS) {
      const chosen = use(role, form, units[0]);
      expect(withKey(use("", "", units[0]), keyOf(chosen), FILE)).toEqual(chosen);
      expect(formOf(FILE, chosen)?.units).toEqual(units);
    }
    const nobody = withKey(use("gap", "whole", "ms"), "", FILE);
    expect([nobody.sensor_id, keyOf(nobody)]).toEqual([null, ""]);
  });

  it("keeps its unit where the form knows it, and takes the form's first where not", () => {
    expect(withKey(use("light", "counts", "ms"), "5:gap:whole", FILE).unit).toBe("ms");
    expect(withKey(use("light", "counts", "V"), "5:gap:whole", FILE).unit).toBe("µs");
    expect(withKey(use("light", "counts", "V"), "9:unknown:form", FILE).unit).toBe("V");
  });

  it("cannot be the same for more columns than the input has, nor of two forms", () => {
    const guessed = Object.fromEntries(FILE.columns.map((one) => [one.number, guessedUse(one)]));
    expect(twice(FILE, guessed)).toEqual([3]);
    const some = { ...guessed, 3: { ...use("", ""), sensor_id: null } };
    expect(twice(FILE, some)).toEqual([]);
    expect(twice(FILE, { ...some, 2: use("light", "volts", "V") })).toEqual([2]);
    expect(twice(FILE, { 0: use("gap", "whole"), 1: use("gap", "whole") })).toEqual([1]);
    expect(twice(FILE, {})).toEqual([]);
  });
});
