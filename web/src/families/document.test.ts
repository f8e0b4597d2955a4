import { describe, expect, it } from "vitest";
import { isWithin, recordsAt, textAt, valueAt, withValue } from "./document";
import { fieldTitle, figuresOf, shownUnit, unitOf, usualSize } from "./figures";
import { anotherLead, withLeads } from "./leadRoles";
import { optionalFigures } from "./schema";

const BOARD = {
  title: "A board of my own",
  logic_v: { value: 5, source: "its sheet" },
  pin_classes: [
    { name: "plain", drive_a: { value: 0.02, source: "its sheet" } },
    { name: "weak", leak_a: null },
  ],
  pins: [{ name: "D1", labels: ["D1"] }],
};

describe("a description", () => {
  it("has a value put in one place and keeps all else, in the order it is read in", () => {
    const path = ["pin_classes", 0, "drive_a", "value"];
    const next = withValue(BOARD, path, 0.01);
    expect(valueAt(next, path)).toBe(0.01);
    expect(withValue(next, path, 0.02)).toEqual(BOARD);
    expect(Object.keys(next as object)).toEqual(Object.keys(BOARD));
    expect(BOARD.pin_classes[0]?.drive_a?.value).toBe(0.02);
  });

  it("has a place taken out, or made where there was none", () => {
    const without = withValue(BOARD, ["logic_v"], undefined);
    expect(Object.keys(without as object)).toEqual(["title", "pin_classes", "pins"]);
    const made = withValue(without, ["analogue", "bits"], 10);
    expect(valueAt(made, ["analogue", "bits"])).toBe(10);
    expect(withValue(BOARD, ["pins", 7, "name"], "D9")).toEqual(BOARD);
    expect(withValue(BOARD, [], "all of it")).toBe("all of it");
  });

  it("tells nothing of what is not there or of another shape", () => {
    for (const odd of [null, undefined, 7, "words", []]) {
      expect(valueAt(odd, ["a", 0])).toBeUndefined();
      expect(recordsAt(odd, "pins")).toEqual([]);
      expect(textAt(odd, ["title"])).toBe("");
    }
    expect(valueAt(BOARD, ["pins", "0", "name"])).toBeUndefined();
    expect(recordsAt({ pins: [1, null, { name: "D2" }] }, "pins")).toEqual([{ name: "D2" }]);
    expect(textAt(BOARD, ["logic_v"])).toBe("");
  });

  it("knows what lies within what", () => {
    expect(isWithin(["pins", 1, "name"], ["pins", 1])).toBe(true);
    expect(isWithin(["pins"], ["pins"])).toBe(true);
    expect(isWithin(["pins", 2], ["pins", 1])).toBe(false);
    expect(isWithin(["pins"], ["pins", 1])).toBe(false);
  });
});

describe("figures", () => {
  it("are all found, with the names that stand beside their numbers", () => {
    expect(figuresOf(BOARD)).toEqual([
      { path: ["logic_v"], title: "logic level", value: 5, source: "its sheet" },
      { path: ["pin_classes", 0, "drive_a"], title: "plain drives", value: 0.02, source: "its sheet" },
    ]);
    expect(figuresOf({ value: 5 })).toEqual([]);
    expect(figuresOf(null)).toEqual([]);
    expect(fieldTitle("", "rise_time_s")).toBe("rise time");
    expect(figuresOf([{ value: 1, source: "" }])[0]?.title).toBe("1");
  });

  it("have the unit their place says, with the prefix that suits", () => {
    expect(unitOf(["ports", 0, "limit_a"])).toBe("A");
    expect(unitOf(["references", "volts"])).toBe("V");
    expect(unitOf(["pins", 3])).toBe("");
    expect(unitOf(["leads", 2, "beam_rad"])).toBe("rad");
    expect(shownUnit(0.0147, ["leak_a"])).toEqual([1e-3, "mA"]);
    expect(shownUnit(1, ["beam_rad"])).toEqual([Math.PI / 180, "°"]);
    expect([usualSize(["a", "limit_a"]), usualSize(["own_f"]), usualSize(["own_ohm"])]).toEqual([1e-3, 1e-12, 1]);
  });

  it("that may be there or not are offered by the schema, within the part asked for", () => {
    const figure = { $ref: "#/$defs/Figure" };
    const schema = {
      $defs: {
        Figure: { properties: { value: {}, source: {} } },
        PinClass: {
          properties: { name: {}, drive_a: figure, leak_a: { anyOf: [figure, { type: "null" }] } },
        },
        Converter: { properties: { source_ohm: { anyOf: [figure, { type: "null" }] } } },
      },
      properties: {
        logic_v: figure,
        pin_classes: { items: { $ref: "#/$defs/PinClass" } },
        analogue: { anyOf: [{ $ref: "#/$defs/Converter" }, { type: "null" }] },
      },
    };
    const second = optionalFigures(schema, BOARD, ["pin_classes", 1]);
    expect(second).toEqual([{ path: ["pin_classes", 1, "leak_a"], title: "leak", isThere: false }]);
    const all = optionalFigures(schema, BOARD, []);
    expect(all.map((one) => one.title)).toEqual(["plain leak", "weak leak"]);
    const there = withValue(withValue(BOARD, ["analogue"], {}), ["analogue", "source_ohm"], {
      value: 1e4,
      source: "",
    });
    expect(optionalFigures(schema, there, ["analogue"])).toEqual([
      { path: ["analogue", "source_ohm"], title: "wants a source up to", isThere: true },
    ]);
    expect(optionalFigures({}, BOARD, [])).toEqual([]);
  });
});

describe("leads", () => {
  it("bring what such leads need said, and drop what other ones did", () => {
    const device = withLeads({ name: "own" }, [
      { name: "OUT", role: "output", labels: ["OUT"] },
      { name: "SDA", role: "sda" },
      { name: "VCC", role: "supply" },
    ]);
    expect(valueAt(device, ["leads", 0, "output", "drive"])).toBe("push_pull");
    expect(device["i2c"]).toBeDefined();
    expect(device["supply"]).toBeDefined();
    const [out = {}] = recordsAt(device, "leads");
    const other = withLeads(device, [{ ...out, role: "analogue" }]);
    expect(Object.keys(recordsAt(other, "leads")[0] ?? {})).toEqual(["analogue", "name", "role", "labels"]);
    expect(other["i2c"]).toBeUndefined();
    expect(other["supply"]).toEqual(device["supply"]);
  });

  it("keep what somebody said of their bus", () => {
    const own = { addresses: [0x29] };
    expect(withLeads({ i2c: own }, [{ name: "SCL", role: "scl" }])["i2c"]).toBe(own);
  });

  it("get names that nobody has yet", () => {
    const device = withLeads({}, [{ name: "OUT1" }, { name: "OUT3" }]);
    expect(anotherLead(device)["name"]).toBe("OUT2");
    expect(anotherLead({})["name"]).toBe("OUT1");
  });
});
