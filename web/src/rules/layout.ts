import { ANY, type Rules } from "./rules";

/** Where a state lies on the picture, px. */
export interface Lying {
  name: string;
  x: number;
  y: number;
}

/** A way from one state to another. place: of the transition in the list; none for a time. */
interface Way {
  key: string;
  from: string;
  to: string;
  place: number | null;
  path: string;
  /** Where its number stands. */
  at: [number, number];
}

export interface Picture {
  width: number;
  height: number;
  states: Lying[];
  ways: Way[];
  /** Targets of what leads from anywhere: transition, and where it comes down. */
  fromAny: { place: number; to: string; x: number; y: number }[];
  bandY: number;
}

export const STONE = { width: 146, height: 60 };
const GAP = { x: 46, y: 34 };
const BAND = 30;
/** More columns than this go on below: words stay as large as they are. */
const COLUMNS = 4;
const ARC = 15;

interface Laid {
  lying: Lying;
  block: number;
}

/** States in columns by how many steps they are from the start; after four columns it goes on below. */
export function pictureOf(rules: Rules): Picture {
  const columns = columnsOf(rules);
  const any = rules.transitions.some((one) => one.leaves === ANY);
  const laid = new Map<string, Laid>();
  let top = (any ? BAND + 24 : BAND + 8) + 14;
  const bottoms: number[] = [];
  for (let block = 0; block * COLUMNS < columns.length; block += 1) {
    const those = columns.slice(block * COLUMNS, (block + 1) * COLUMNS);
    const most = Math.max(...those.map((one) => one.length));
    those.forEach((names, column) => {
      const lift = ((most - names.length) * (STONE.height + GAP.y)) / 2;
      names.forEach((name, row) => {
        const x = 14 + column * (STONE.width + GAP.x);
        laid.set(name, { lying: { name, x, y: top + lift + row * (STONE.height + GAP.y) }, block });
      });
    });
    const bottom = top + most * (STONE.height + GAP.y) - GAP.y;
    bottoms.push(bottom);
    top = bottom + arcsIn(rules, laid, block) * ARC + GAP.y + 22;
  }
  const ways = waysOf(rules, laid, bottoms);
  const wide = Math.min(COLUMNS, columns.length);
  return {
    width: 28 + wide * (STONE.width + GAP.x) - GAP.x,
    height: top - GAP.y + 4,
    states: [...laid.values()].map((one) => one.lying),
    ways,
    fromAny: rules.transitions.flatMap((one, place) => {
      const to = laid.get(one.to)?.lying;
      return one.leaves === ANY && to ? [{ place, to: one.to, x: to.x, y: to.y }] : [];
    }),
    bandY: 14,
  };
}

function columnsOf(rules: Rules): string[][] {
  const next = new Map<string, string[]>(rules.states.map((one) => [one.name, []]));
  for (const one of rules.transitions) if (one.leaves !== ANY) next.get(one.leaves)?.push(one.to);
  for (const one of rules.states) if (one.leave_to) next.get(one.name)?.push(one.leave_to);
  const depth = new Map<string, number>([[rules.start, 0]]);
  const waiting = [rules.start];
  for (let name = waiting.shift(); name !== undefined; name = waiting.shift()) {
    for (const to of next.get(name) ?? []) {
      if (depth.has(to) || !next.has(to)) continue;
      depth.set(to, (depth.get(name) ?? 0) + 1);
      waiting.push(to);
    }
  }
  const last = Math.max(0, ...depth.values());
  const columns: string[][] = [];
  for (const one of rules.states) (columns[depth.get(one.name) ?? last + 1] ??= []).push(one.name);
  return columns.filter((one) => one?.length);
}

interface Wanted {
  key: string;
  from: string;
  to: string;
  place: number | null;
}

function wantedOf(rules: Rules): Wanted[] {
  return [
    ...rules.transitions.flatMap((one, place) =>
      one.leaves === ANY ? [] : [{ key: `t${place}`, from: one.leaves, to: one.to, place }],
    ),
    ...rules.states.flatMap((one) =>
      one.leave_after_s != null && one.leave_to
        ? [{ key: `s${one.name}`, from: one.name, to: one.leave_to, place: null }]
        : [],
    ),
  ];
}

/** How many ways lead back within a block: each has a lane of its own below it. */
function arcsIn(rules: Rules, laid: Map<string, Laid>, block: number): number {
  return wantedOf(rules).filter((one) => {
    const a = laid.get(one.from);
    const b = laid.get(one.to);
    return a && b && a.block === block && b.block === block && b.lying.x < a.lying.x;
  }).length;
}

function waysOf(rules: Rules, laid: Map<string, Laid>, bottoms: number[]): Way[] {
  const leaving = new Map<string, number>();
  const coming = new Map<string, number>();
  const arcs = new Map<number, number>();
  const count = <T>(of: Map<T, number>, key: T) => {
    const n = of.get(key) ?? 0;
    of.set(key, n + 1);
    return n;
  };
  return wantedOf(rules).flatMap((one) => {
    const a = laid.get(one.from);
    const b = laid.get(one.to);
    if (!a || !b) return [];
    const out = count(leaving, one.from);
    const into = count(coming, one.to);
    if (a.block !== b.block) return [across(one, a.lying, b.lying, out, into)];
    if (b.lying.x > a.lying.x) return [forward(one, a.lying, b.lying, out, into)];
    if (b.lying.x === a.lying.x) return [beside(one, a.lying, b.lying)];
    const deep = (bottoms[a.block] ?? 0) + 18 + count(arcs, a.block) * ARC;
    return [back(one, a.lying, b.lying, deep, out, into)];
  });
}

function forward(one: Wanted, a: Lying, b: Lying, out: number, into: number): Way {
  const x1 = a.x + STONE.width;
  const y1 = a.y + Math.min(13 + out * 13, STONE.height - 8);
  const x2 = b.x - 5;
  const y2 = b.y + Math.min(16 + into * 13, STONE.height - 8);
  const bend = Math.min(46, (x2 - x1) / 2);
  const at: [number, number] = [x1 + 17, y1 + (y2 - y1) * 0.14];
  return { ...one, path: `M${x1} ${y1}C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`, at };
}

function beside(one: Wanted, a: Lying, b: Lying): Way {
  const down = b.y > a.y;
  const x = a.x + (down ? STONE.width - 36 : 36);
  const y1 = down ? a.y + STONE.height : a.y;
  const y2 = down ? b.y - 5 : b.y + STONE.height + 5;
  const side = Math.abs(y2 - y1) > GAP.y ? (down ? 52 : -52) : 0;
  return {
    ...one,
    path: `M${x} ${y1}C${x + side} ${(y1 * 2 + y2) / 3} ${x + side} ${(y1 + y2 * 2) / 3} ${x} ${y2}`,
    at: [x + side * 0.74, (y1 + y2) / 2],
  };
}

function back(one: Wanted, a: Lying, b: Lying, deep: number, out: number, into: number): Way {
  const x1 = a.x + STONE.width - 24 - Math.min(out * 13, 60);
  const x2 = b.x + 22 + Math.min(into * 13, 70);
  const y1 = a.y + STONE.height;
  const y2 = b.y + STONE.height + 5;
  const r = 12;
  return {
    ...one,
    path: `M${x1} ${y1}V${deep - r}Q${x1} ${deep} ${x1 - r} ${deep}H${x2 + r}Q${x2} ${deep} ${x2} ${deep - r}V${y2}`,
    at: [x1 - r - 14, deep],
  };
}

/** From one block to another: down from below, or up from above. */
function across(one: Wanted, a: Lying, b: Lying, out: number, into: number): Way {
  const down = b.y > a.y;
  const x1 = a.x + (down ? STONE.width - 22 - Math.min(out * 13, 80) : 26 + Math.min(out * 13, 80));
  const x2 = b.x + (down ? 24 + Math.min(into * 13, 80) : STONE.width - 30 - Math.min(into * 13, 80));
  const y1 = down ? a.y + STONE.height : a.y;
  const y2 = down ? b.y - 5 : b.y + STONE.height + 5;
  const bend = (y2 - y1) * 0.55;
  return {
    ...one,
    path: `M${x1} ${y1}C${x1} ${y1 + bend} ${x2} ${y2 - bend} ${x2} ${y2}`,
    at: [x1 + (x2 - x1) * 0.12, y1 + (y2 - y1) * 0.3],
  };
}
