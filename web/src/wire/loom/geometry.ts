/** How wide the comb of pins is drawn, how wide a free pin's peg, and how much of a thread one bead takes. */
export const COMB_WIDTH = 92;
export const PEG_WIDTH = 34;
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

/** How large the dot of a joint is. */
export const DOT = 10;

const TAG_BODY = 36;
const FLAG_ROOM = 30;
const LEG_PITCH = 17;

/** How much room a part with legs takes, and where its legs are on it; y from its top. */
export function tagShape(tag: { key: string; words: string; legs: { id: string; label: string; way: string }[] }): {
  width: number;
  height: number;
  body: { y: number; height: number };
  ports: Map<string, Point>;
} {
  const going = (way: string) => tag.legs.filter((leg) => leg.way === way);
  const sides = Math.max(going("west").length, going("east").length);
  const named = Math.max(0, ...[...going("west"), ...going("east")].map((leg) => leg.label.length));
  const beside = (way: string) => 7 * Math.max(0, ...going(way).map((leg) => leg.label.length));
  const flags = [...going("up"), ...going("down")].map((leg) => 7 * leg.label.length + 16);
  const body = Math.max(TAG_BODY, 10 + LEG_PITCH * sides) + (sides > 1 || named > 0 ? 16 : 0);
  const width = Math.max(
    74,
    7.2 * tag.words.length + 20,
    beside("west") + beside("east") + 34,
    ...flags.map((flag) => flag + 20),
  );
  const above = going("up").length * FLAG_ROOM;
  const ports = new Map<string, Point>();
  for (const way of ["west", "east"]) {
    const mine = going(way);
    const first = above + body - (sides > 1 || named > 0 ? 13 : body / 2) - (mine.length - 1) * LEG_PITCH;
    mine.forEach((leg, index) => ports.set(leg.id, { x: way === "west" ? 0 : width, y: first + index * LEG_PITCH }));
  }
  going("up").forEach((leg, index) => ports.set(leg.id, { x: width / 2, y: above - index * FLAG_ROOM }));
  going("down").forEach((leg, index) => ports.set(leg.id, { x: width / 2, y: above + body + index * FLAG_ROOM }));
  return { width, height: above + body + going("down").length * FLAG_ROOM, body: { y: above, height: body }, ports };
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

/** Where a pin is: the left of its tooth in use, or of its peg when it is free. */
export interface Tooth extends Point {
  isFree: boolean;
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
  /** Where threads and legs meet, by place. */
  dots: Map<string, Box>;
  /** Parts with legs of their own, by key. */
  tags: Map<string, Box>;
  /** The run of each thread and leg, in pieces with beads and joints between. */
  runs: Map<string, Point[][]>;
  comb: Box;
  teeth: Map<string, Tooth>;
}
