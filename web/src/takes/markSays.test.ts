import { expect, test } from "vitest";
import { markSays } from "./markSays";

test.each([
  ["its own name goes first", { name: "tape at the door", pose: "wave", lane: 2 }, "tape at the door"],
  ["then the pose", { name: "", pose: "wave", lane: null }, "wave"],
  ["and which sensor was held", { name: "", pose: "black", lane: 1 }, "black, sensor 2"],
  ["or only which", { name: "", pose: "", lane: 0 }, "sensor 1"],
  ["and nothing where there is nothing", { name: "", pose: "", lane: null }, ""],
])("%s", (_, mark, says) => expect(markSays(mark)).toBe(says));
