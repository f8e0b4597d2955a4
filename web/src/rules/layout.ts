import { ANY, type Rules } from "./rules";

/** Where a state lies on the picture, px. */
export interface Lying {
  name: string;
  x: number;
  y: number;
}

/** A way from one state to another. place: of the transition in the list; none for a time. */
export interface Way {
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

export const STONE = { width: 148, height: 56 };
const GAP = { x: 66, y: 30 };
const BAND = 30;

/** States in columns by how many steps they are from the start, each near what leads to it. */
export function pictureOf(rules: Rules): Picture {
  const next = new Map<string, string[]>(rules.states.map((one) => [one.name, []]));
  for (const one of rules.transitions) if (one.leaves !== ANY) next.get(one.leaves)?.push(one.to);
  for (const one of rules.states) if (one.leave_to) next.get(one.name)?.push(one.leave_to);
  const depth = new Map<string, number>([[rules.start, 0]]);
  const waiting = [rules.start];
  while (waiting.length > 0) {
    const name = waiting.shift() as string;
    for (const to of next.get(name) ?? []) {
      if (depth.has(to) || !next.has(to)) continue;
      depth.set(to, (depth.get(name) ?? 0) + 1);
      waiting.push(to);
    }
  }
  const last = Math.max(0, ...depth.values());
  for (const one of rules.states) if (!depth.has(one.name)) depth.set(one.name, last + 1);
  const columns: string[][] = [];
  for (const one of rules.states) (columns[depth.get(one.name) ?? 0] ??= []).push(one.name);
  const filled = columns.filter((one) => one?.length);
  const most = Math.max(1, ...filled.map((one) => one.length));
  const any = rules.transitions.some((one) => one.leaves === ANY);
  const top = (any ? BAND + 26 : 14) + 12;
  const states: Lying[] = [];
  filled.forEach((names, column) => {
    const lift = ((most - names.length) * (STONE.height + GAP.y)) / 2;
    names.forEach((name, row) => {
      states.push({
        name,
        x: 14 + column * (STONE.width + GAP.x),
        y: top + lift + row * (STONE.height + GAP.y),
      });
    });
  });
  const at = new Map(states.map((one) => [one.name, one]));
  const bottom = top + most * (STONE.height + GAP.y) - GAP.y;
  const ways = waysOf(rules, at, bottom);
  const depthOfArcs = Math.max(0, ...ways.map((one) => one.at[1] - bottom));
  return {
    width: 28 + filled.length * (STONE.width + GAP.x) - GAP.x,
    height: bottom + depthOfArcs + 26,
    states,
    ways,
    fromAny: rules.transitions.flatMap((one, place) => {
      const to = at.get(one.to);
      return one.leaves === ANY && to ? [{ place, to: one.to, x: to.x, y: to.y }] : [];
    }),
    bandY: 14,
  };
}

function waysOf(rules: Rules, at: Map<string, Lying>, bottom: number): Way[] {
  const wanted: { key: string; from: string; to: string; place: number | null }[] = [
    ...rules.transitions.flatMap((one, place) =>
      one.leaves === ANY ? [] : [{ key: `t${place}`, from: one.leaves, to: one.to, place }],
    ),
    ...rules.states.flatMap((one) =>
      one.leave_after_s != null && one.leave_to
        ? [{ key: `s${one.name}`, from: one.name, to: one.leave_to, place: null }]
        : [],
    ),
  ];
  const leaving = new Map<string, number>();
  const coming = new Map<string, number>();
  const count = (of: Map<string, number>, name: string) => {
    const n = of.get(name) ?? 0;
    of.set(name, n + 1);
    return n;
  };
  let arcs = 0;
  return wanted.flatMap((one) => {
    const a = at.get(one.from);
    const b = at.get(one.to);
    if (!a || !b) return [];
    const out = 14 + count(leaving, one.from) * 13;
    const into = 16 + count(coming, one.to) * 13;
    if (b.x > a.x) return [forward(one, a, b, out, into)];
    if (b.x === a.x) return [beside(one, a, b)];
    const deep = bottom + 16 + (arcs++ % 9) * 15;
    return [back(one, a, b, deep, out, into)];
  });
}

type Wanted = Omit<Way, "path" | "at">;

function forward(one: Wanted, a: Lying, b: Lying, out: number, into: number): Way {
  const x1 = a.x + STONE.width;
  const y1 = a.y + Math.min(out, STONE.height - 8);
  const x2 = b.x - 5;
  const y2 = b.y + Math.min(into, STONE.height - 8);
  const bend = Math.min(46, (x2 - x1) / 2);
  const middle: [number, number] = [x1 + 19, y1 + (y2 - y1) * 0.12];
  return { ...one, path: `M${x1} ${y1}C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`, at: middle };
}

function beside(one: Wanted, a: Lying, b: Lying): Way {
  const down = b.y > a.y;
  const x = a.x + (down ? STONE.width - 36 : 36);
  const y1 = down ? a.y + STONE.height : a.y;
  const y2 = down ? b.y - 5 : b.y + STONE.height + 5;
  const far = Math.abs(y2 - y1) > GAP.y;
  const side = far ? (down ? 52 : -52) : 0;
  return {
    ...one,
    path: `M${x} ${y1}C${x + side} ${(y1 * 2 + y2) / 3} ${x + side} ${(y1 + y2 * 2) / 3} ${x} ${y2}`,
    at: [x + side * 0.74, (y1 + y2) / 2],
  };
}

function back(one: Wanted, a: Lying, b: Lying, deep: number, out: number, into: number): Way {
  const x1 = a.x + STONE.width - 12 - Math.min(out, 50);
  const x2 = b.x + 8 + Math.min(into, 60);
  const y1 = a.y + STONE.height;
  const y2 = b.y + STONE.height + 5;
  const r = 12;
  return {
    ...one,
    path: `M${x1} ${y1}V${deep - r}Q${x1} ${deep} ${x1 - r} ${deep}H${x2 + r}Q${x2} ${deep} ${x2} ${deep - r}V${y2}`,
    at: [x1 - r - 14, deep],
  };
}
