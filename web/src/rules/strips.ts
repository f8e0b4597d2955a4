import type { Visits } from "./queries";

export interface Block {
  from: number;
  width: number;
  state: number;
  why: number;
  many: number;
}

/** Visits as blocks of px; those too thin to see still take one. */
export function blocksOf(visits: Visits, x: (t: number) => number): Block[] {
  return visits.from_s.map((from, n) => {
    const left = x(from);
    return {
      from: left,
      width: Math.max(1, x(visits.to_s[n] ?? from) - left),
      state: visits.state[n] ?? 0,
      why: visits.why[n] ?? 0,
      many: visits.many[n] ?? 1,
    };
  });
}

/** Round times for an axis, at most so many. */
export function ticksOf(from: number, to: number, most: number): number[] {
  const rough = (to - from) / Math.max(1, most);
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1e-6)));
  const step = [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? rough;
  const first = Math.ceil(from / step - 1e-9);
  const found: number[] = [];
  for (let n = first; n * step <= to + 1e-9 && found.length < 100; n += 1) found.push(n * step + 0); // never −0
  return found;
}
