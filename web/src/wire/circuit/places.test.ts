import { expect, test } from "vitest";
import type { Wiring } from "../queries";
import { freeName, placeGroups, placeWords } from "./places";

const wiring = {
  rails: [{ name: "5V" }, { name: "GND" }],
  pins: [{ name: "D2" }],
  places: [
    { name: "Pack+", words: "Drive pack +", group: "supplies" },
    { name: "7.OUT", words: "Rear wheel OUT", group: "leads" },
  ],
} as unknown as Wiring;

test("places stand in groups, and a group with nothing in it is left out", () => {
  expect(placeGroups(wiring).map((group) => [group.label, group.choices.map((one) => one.words)])).toEqual([
    ["Supplies and ground", ["5V", "GND", "Drive pack +"]],
    ["Pins", ["D2"]],
    ["Leads of devices", ["Rear wheel OUT"]],
  ]);
});

test("a lead is called by its device's name, a pin by its own", () => {
  expect(placeWords(wiring, "7.OUT")).toBe("Rear wheel OUT");
  expect(placeWords(wiring, "D2")).toBe("D2");
});

test("a new name is one that nobody has", () => {
  expect(freeName("J", [])).toBe("J1");
  expect(freeName("J", ["J1", "J3"])).toBe("J2");
});
