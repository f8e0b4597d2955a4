import { describe, expect, it } from "vitest";
import type { Wiring } from "../queries";
import { ledTo } from "./leading";
import { cardsOf, loomModel } from "./model";
import { related } from "./reach";
import { inHand, targetsFor } from "./targets";

type End = { to: string; beads: { kind: string; words: string }[]; shown_colour: string };
const end = (to: string, ...kinds: string[]): End => ({
  to,
  beads: kinds.map((kind) => ({ kind, words: kind })),
  shown_colour: "yellow",
});
const lead = (name: string, role: string, to: End | null, is_optional = false) => ({
  name,
  role,
  end: to,
  is_optional,
  wants: role === "analogue" ? ["analogue_in"] : [],
});

function bench(leads: ReturnType<typeof lead>[], parts: Partial<Wiring["parts"][number]>[] = []): Wiring {
  const devices = [
    { id: 1, name: "Eye", leads },
    { id: 2, name: "Horn", leads: [lead("S", "input", end("D3"))] },
  ];
  return {
    devices,
    parts,
    pins: ["D2", "D3", "A0"].map((name) => ({ name, abilities: name === "A0" ? ["analogue_in"] : [] })),
    rails: [
      { name: "5V", kind: "regulated", volts: 5 },
      { name: "GND", kind: "ground", volts: 0 },
    ],
    supplies: [{ key: "BAT", plus: "BAT+", minus: "BAT-", has_common_ground: true, volts: [4, 4.8, 6] }],
    joints: ["J1"],
    places: [
      { name: "BAT+", words: "pack +", group: "supplies" },
      ...devices.flatMap((one) =>
        one.leads.map((each) => ({
          name: `${one.id}.${each.name}`,
          words: `${one.name} ${each.name}`,
          group: "leads",
        })),
      ),
    ],
    findings: [
      { severity: "warning", spots: [{ device: 1, lead: "OUT", pin: "D2", part: "" }] },
      { severity: "error", spots: [{ device: null, lead: "", pin: "", part: "R1" }] },
    ],
  } as unknown as Wiring;
}

describe("what the loom draws", () => {
  it("is a thread to a pin, a tab to a rail, and a loose end for what goes nowhere", () => {
    const model = loomModel(
      bench([
        lead("VCC", "supply", end("5V")),
        lead("GND", "ground", null),
        lead("OUT", "output", end("D2")),
        lead("AUX", "output", null),
        lead("INT", "output", null, true),
      ]),
    );
    expect(model.threads.map((one) => [one.id, one.to])).toEqual([
      ["1.OUT", "D2"],
      ["2.S", "D3"],
    ]);
    expect(model.tabs.map((one) => one.rail)).toEqual(["5V"]);
    expect(model.loose.map((one) => [one.lead.name, one.isSupply])).toEqual([
      ["GND", true],
      ["AUX", false],
    ]);
    expect(model.threads[0]?.severity).toBe("warning");
    expect(cardsOf(model).map((one) => one.name)).toEqual(["Eye", "Horn"]);
  });

  it("meets at a joint of its own where a lead is joined to another's, and counts it as used", () => {
    const model = loomModel(bench([lead("OUT", "output", end("D2", "series")), lead("B", "output", end("1.OUT"))]));
    expect(model.dots.filter((dot) => dot.lead)).toEqual([{ name: "1.OUT", words: "Eye OUT", lead: "1.OUT" }]);
    expect(model.threads.map((one) => one.to)).toEqual(["D2", "1.OUT", "D3"]);
  });

  it("ends on the rail that bare wire leads to, and at a joint where parts lie between", () => {
    const bare = loomModel(bench([lead("A", "leg", end("GND")), lead("B", "leg", end("1.A"))]));
    expect(bare.tabs.map((one) => [one.lead.name, one.rail])).toEqual([
      ["A", "GND"],
      ["B", "GND"],
    ]);
    const through = loomModel(bench([lead("A", "leg", end("GND", "series")), lead("B", "leg", end("1.A"))]));
    expect(through.tabs.map((one) => one.lead.name)).toEqual(["A"]);
    expect(through.threads.map((one) => [one.lead.name, one.to])).toEqual([
      ["A", "1.A"],
      ["B", "1.A"],
      ["S", "D3"],
    ]);
    expect(loomModel(bench([lead("A", "leg", end("BAT-"))])).tabs[0]?.rail).toBe("GND");
  });

  it("lets the legs of a part leave for where they go: rails as branches, pins to the right", () => {
    const part = { key: "R1", kind: "resistor" as const, words: "1 kΩ" };
    const model = loomModel(
      bench(
        [lead("OUT", "output", end("J1"))],
        [
          { ...part, ends: { a: "J1", b: "D2" } },
          { ...part, key: "R2", ends: { a: "D2", b: "GND" } },
          { ...part, key: "R3", ends: { a: "BAT+", b: "J1" } },
        ],
      ),
    );
    expect(model.tags.map((tag) => tag.legs.map((leg) => leg.way))).toEqual([
      ["west", "east"],
      ["east", "down"],
      ["up", "west"],
    ]);
    expect(model.tags.map((tag) => tag.severity)).toEqual(["error", "", ""]);
    expect(model.pins.filter((pin) => pin.isUsed).map((pin) => pin.name)).toEqual(["D2", "D3"]);
    expect(related(model, "1.OUT", "tag R1")).toBe(true);
    expect(related(model, "1.OUT", "tag R2")).toBe(false);
    expect(related(model, "tag R1", "tag R2")).toBe(true);
  });
});

describe("what is in hand", () => {
  const wiring = bench(
    [lead("OUT", "analogue", end("D2"))],
    [{ key: "R1", kind: "resistor", words: "1 kΩ", ends: { a: "J1", b: "D2" } }],
  );
  const circuit = {
    connections: [{ device: 1, lead: "OUT", to: "D2", is_fixed: true }],
    joints: ["J1"],
    parts: [{ key: "R1", kind: "resistor" as const, ends: { a: "J1", b: "D2" }, tolerance: 0.05 }],
    supplies: [],
    left_open: [{ device: 1, lead: "OUT" }],
  };

  it("may go to every pin, rail, joint and other lead, but not to itself", () => {
    const held = inHand(wiring, "1.OUT");
    const targets = held ? targetsFor(wiring, loomModel(wiring), held) : [];
    expect(targets.map((one) => one.place)).toEqual(["D2", "D3", "A0", "5V", "GND", "BAT+", "J1", "2.S"]);
    expect(targets[0]?.words).toContain("cannot do what this lead asks");
    expect(targets[2]?.words).toBe("pin A0, free");
    expect(inHand(wiring, "9.OUT")).toBeUndefined();
  });

  it("keeps all else of a wire it leads, and is no longer left open", () => {
    const held = inHand(wiring, "1.OUT");
    const led = held && ledTo(circuit, held, "A0");
    expect(led?.connections).toEqual([{ device: 1, lead: "OUT", to: "A0", is_fixed: true }]);
    expect(led?.left_open).toEqual([]);
    expect(led?.joints).toEqual(["J1"]);
  });

  it("takes a joint away with the last leg that leaves it", () => {
    const held = inHand(wiring, "R1 a");
    const led = held && ledTo(circuit, held, "D3");
    expect(led?.parts[0]?.ends).toEqual({ a: "D3", b: "D2" });
    expect(led?.joints).toEqual([]);
  });
});
