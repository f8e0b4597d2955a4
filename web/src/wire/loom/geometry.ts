/** How wide the comb of pins is drawn, and how much of a thread one bead takes. */
export const COMB_WIDTH = 92;
export const BEAD_PITCH = 62;

/** Room a part needs above or below its wire: its value beside the wire, or a whole branch to a rail. */
const VALUE_ROOM = 24;
const BRANCH_ROOM = 54;
const BARE_ROOM = 10;

/** Whether a part goes from the wire to a rail, and which way it is drawn; null for one in the wire. */
export function branchOf(kind: string): "up" | "down" | null {
  if (kind === "series") return null;
  return kind === "pull_up" || kind === "pin_pull_up" ? "up" : "down";
}

/** How much room the parts of a wire take above and below it. */
export function stringRoom(kinds: string[]): { above: number; below: number } {
  const ways = kinds.map(branchOf);
  return {
    above: ways.includes("up") ? BRANCH_ROOM : ways.includes(null) ? VALUE_ROOM : BARE_ROOM,
    below: ways.includes("down") ? BRANCH_ROOM : BARE_ROOM,
  };
}

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Point {
  x: number;
  y: number;
}

/** Where everything stands, in drawing units. */
export interface LoomLayout {
  width: number;
  height: number;
  cards: Map<number, Box>;
  /** Where a lead leaves its card, by thread. */
  leads: Map<string, Point>;
  /** Where the beads of a thread are strung. */
  strings: Map<string, Box>;
  /** The run of each thread, in one piece or two with its beads between. */
  runs: Map<string, Point[][]>;
  comb: Box;
  teeth: Map<string, Point>;
}
