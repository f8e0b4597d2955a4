import { describe, expect, it } from "vitest";
import { branchOf, stringRoom } from "./geometry";

describe("parts on a thread", () => {
  it("lie in the wire only when they are in series", () => {
    expect(branchOf("series")).toBeNull();
    expect(branchOf("pull_up")).toBe("up");
    expect(branchOf("pin_pull_up")).toBe("up");
    expect(branchOf("pull_down")).toBe("down");
    expect(branchOf("capacitor")).toBe("down");
  });

  it("get room on the side they branch to, and hardly any on the other", () => {
    const bare = stringRoom([]);
    const down = stringRoom(["series", "capacitor"]);
    const up = stringRoom(["pull_up"]);
    expect(down.below).toBeGreaterThan(2 * bare.below);
    expect(up.below).toBe(bare.below);
    expect(up.above).toBeGreaterThan(down.above);
    expect(stringRoom(["pull_up", "pull_down"])).toEqual({ above: up.above, below: down.below });
  });
});
