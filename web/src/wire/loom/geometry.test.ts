import { describe, expect, it } from "vitest";
import { branchOf, stringRoom, tagShape } from "./geometry";

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

describe("a part with legs", () => {
  const leg = (id: string, way: string, label = "") => ({ id, way, label });

  it("has its legs on its own edges, and room for the flags above and below", () => {
    const legs = [leg("a", "west"), leg("b", "up", "5V"), leg("c", "down", "GND")];
    const { width, height, body, ports } = tagShape({ key: "T1", words: "transistor", legs });
    expect(ports.get("a")?.x).toBe(0);
    expect(ports.get("b")).toEqual({ x: width / 2, y: body.y });
    expect(ports.get("c")).toEqual({ x: width / 2, y: body.y + body.height });
    expect(height).toBeGreaterThan(body.y + body.height);
    for (const { y } of ports.values()) expect(y).toBeLessThanOrEqual(height);
  });

  it("is wide enough for what is written at both its sides", () => {
    const legs = [leg("a", "west", "anode"), leg("b", "east", "cathode")];
    const bare = tagShape({ key: "D1", words: "diode", legs: [leg("a", "west"), leg("b", "east")] });
    expect(tagShape({ key: "D1", words: "diode", legs }).width).toBeGreaterThan(bare.width + 30);
  });

  it("keeps legs of one side apart", () => {
    const { ports, body } = tagShape({ key: "U1", words: "", legs: [leg("a", "east", "in"), leg("b", "east", "out")] });
    const [a, b] = [ports.get("a")?.y ?? 0, ports.get("b")?.y ?? 0];
    expect(b - a).toBeGreaterThan(12);
    expect(b).toBeLessThan(body.y + body.height);
  });
});
