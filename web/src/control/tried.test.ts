import { describe, expect, it } from "vitest";
import type { RulesBench } from "../rules/queries";
import type { ControlBench } from "./queries";
import { asKept, begun, hearing, inUnitOf, pick } from "./tried";

const input = (name: string, usual: number | null) => ({ name, default: usual, shown: "its own" });
const plant = (name: string, usual: Record<string, number>) => ({
  name,
  usual,
  inputs: [input("gain", 2), input("lag_s", 0.5)],
  measured: { unit: "m", shown: "as cm" },
  steered: { unit: "", shown: "as %" },
});
const BENCH = {
  plants: [plant("wheel", { kp: 0.3, sample_s: 0.02 }), plant("wall", {})],
  rig: [input("sample_s", 0.01), input("noise_u", 0)],
  controller: [input("kp", 1), input("ki", 0)],
} as unknown as ControlBench;
const [WHEEL, WALL] = BENCH.plants;

describe("what is on the bench", () => {
  it("begins with what a plant is usually tuned to, and the usual for the rest", () => {
    if (!WHEEL || !WALL) throw new Error("two plants");
    expect(begun(WHEEL, BENCH)).toEqual({
      plant: "wheel",
      plantInputs: { gain: 2, lag_s: 0.5 },
      rigInputs: { sample_s: 0.02, noise_u: 0 },
      settings: [{ kp: 0.3, ki: 0 }],
    });
    expect(begun(WALL, BENCH).settings).toEqual([{ kp: 1, ki: 0 }]);
  });

  it("stands as it was kept, with the usual for what was not there then", () => {
    const kept = { plant: "wall", plant_inputs: { gain: 3 }, rig_inputs: { noise_u: 0.1 }, settings: { kp: 7 } };
    expect(asKept(kept, BENCH)).toEqual({
      plant: "wall",
      plantInputs: { gain: 3, lag_s: 0.5 },
      rigInputs: { sample_s: 0.01, noise_u: 0.1 },
      settings: [{ kp: 7, ki: 0 }],
    });
  });

  it("goes to the first plant where the kept one is known no more, and keeps its gains", () => {
    const told = asKept({ plant: "boat", plant_inputs: {}, rig_inputs: {}, settings: { kp: 7 } }, BENCH);
    expect([told.plant, told.settings]).toEqual(["wheel", [{ kp: 7, ki: 0 }]]);
  });

  it("picks the values that belong to some inputs", () => {
    expect(pick({ kp: 1, gain: 2, other: 3 }, BENCH.controller)).toEqual({ kp: 1 });
  });

  it("shows what is heard in its unit, what steers in its own, and times as they are", () => {
    if (!WHEEL) throw new Error("a plant");
    const shown = (name: string) =>
      inUnitOf({ ...input(name, 0) } as unknown as ControlBench["rig"][number], WHEEL).shown;
    expect(["noise_u", "target", "load", "sample_s"].map(shown)).toEqual(["as cm", "as cm", "as %", "its own"]);
  });
});

describe("what a loop can hear", () => {
  const output = (unit: string, states: string[] = []) => ({ output: { quantity: { unit, states } } });
  const offered = [output("m"), output("rad"), output("m", ["near", "far"])] as unknown as RulesBench["offered"];

  it("is numbers in the unit of the plant, or any number where it has none", () => {
    expect(hearing(offered, "m")).toEqual([offered[0]]);
    expect(hearing(offered, "")).toEqual([offered[0], offered[1]]);
    expect(hearing(offered, "Pa")).toEqual([]);
  });
});
