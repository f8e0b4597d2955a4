import { describe, expect, it } from "vitest";
import { pictureOf } from "./layout";
import { type Rules, freeName, movedUp, withInput, withState, withoutState } from "./rules";
import { blocksOf, ticksOf } from "./strips";

const RULES: Rules = {
  name: "cart",
  start: "drive",
  inputs: [{ name: "front" }, { name: "near", together: "nearest", of: ["front"] }],
  states: [
    { name: "drive", moves: true },
    { name: "back", leave_after_s: 0.4, leave_to: "turn" },
    { name: "turn", leave_after_s: 0.6, leave_to: "drive" },
  ],
  transitions: [
    { leaves: "any", to: "turn", when: "near < 0.1" },
    { leaves: "drive", to: "back", when: "front < 0.4 and front says ok" },
  ],
  when_blind: { how: "hold", hold_s: 0.3, go_to: "back" },
};

describe("rules", () => {
  it("renames a state wherever it is spoken of", () => {
    const told = withState(RULES, 1, { name: "reverse" });
    expect(told.transitions[1]?.to).toBe("reverse");
    expect(told.when_blind?.go_to).toBe("reverse");
    expect(withState(RULES, 2, { name: "swing" }).states[1]?.leave_to).toBe("swing");
    expect(withState(RULES, 0, { name: "go" }).start).toBe("go");
  });

  it("takes a state out with all that leads from or to it", () => {
    const told = withoutState(RULES, 1);
    expect(told.states.map((one) => one.name)).toEqual(["drive", "turn"]);
    expect(told.transitions).toHaveLength(1);
    expect(told.when_blind?.go_to).toBe("");
    expect(withoutState(RULES, 2).states[1]?.leave_after_s).toBeNull();
    expect(withoutState(RULES, 0).start).toBe("back");
  });

  it("renames an input in every condition, and in what it is part of", () => {
    const told = withInput(RULES, 0, { name: "ahead" });
    expect(told.transitions[1]?.when).toBe("ahead < 0.4 and ahead says ok");
    expect(told.inputs[1]?.of).toEqual(["ahead"]);
  });

  it("moves up what is to win, and finds names that are free", () => {
    expect(movedUp(RULES, 1).transitions[0]?.leaves).toBe("drive");
    expect(movedUp(RULES, 0)).toBe(RULES);
    expect(freeName("Turn Left!", [])).toBe("turn_left_");
    expect(freeName("turn", ["turn", "turn_2"])).toBe("turn_3");
    expect(freeName("any", [])).toBe("any_2");
  });
});

describe("picture", () => {
  it("lays every state apart, and draws every way", () => {
    const many = Array.from({ length: 9 }, (_, n) => ({
      name: `s${n}`,
      leave_after_s: 1,
      leave_to: `s${(n + 1) % 9}`,
    }));
    for (const rules of [RULES, { ...RULES, start: "s0", states: many, transitions: [] }]) {
      const told = pictureOf(rules);
      expect(told.states).toHaveLength(rules.states.length);
      for (const a of told.states) {
        expect(a.x + 146).toBeLessThanOrEqual(told.width);
        expect(a.y + 60).toBeLessThanOrEqual(told.height);
        for (const b of told.states) {
          if (a !== b) expect(Math.abs(a.x - b.x) >= 146 || Math.abs(a.y - b.y) >= 60).toBe(true);
        }
      }
      const timed = rules.states.filter((one) => one.leave_after_s != null).length;
      expect(told.ways).toHaveLength(timed + rules.transitions.filter((one) => one.leaves !== "any").length);
      expect(told.ways.every((one) => !one.path.includes("NaN"))).toBe(true);
    }
  });
});

describe("strips", () => {
  it("gives every visit at least a pixel", () => {
    const visits = { from_s: [0, 5, 5.001], to_s: [5, 5.001, 9], state: [0, 1, 0], why: [0, 1, 2], many: [1, 1, 1] };
    const blocks = blocksOf(visits, (t) => 10 * t);
    expect(blocks.map((one) => one.width)).toEqual([50, 1, expect.closeTo(40, 1)]);
  });

  it("puts round times on an axis", () => {
    expect(ticksOf(0, 72, 8)).toEqual([0, 10, 20, 30, 40, 50, 60, 70]);
    expect(ticksOf(1.02, 1.31, 4).every((one) => one >= 1.02 && one <= 1.31)).toBe(true);
  });
});
