import uPlot from "uplot";
import type { DrawnLine, OutputSeen } from "../api/queries";
import type { Reads } from "../units/shown";

/** A drawn line as points: low and high of a thinned point follow each other. */
export function pointsOf(line: DrawnLine): { t: number[]; v: (number | null)[] } {
  if (!line.is_thinned) return { t: line.time_s, v: line.low };
  const t: number[] = [];
  const v: (number | null)[] = [];
  line.time_s.forEach((at, n) => {
    const next = line.time_s[n + 1] ?? at + (at - (line.time_s[n - 1] ?? at));
    t.push(at, at + (next - at) / 2);
    v.push(line.low[n] ?? null, line.high[n] ?? null);
  });
  return { t, v };
}

/** Times, both edges of the first lane's uncertainty, and every lane, in the unit of the plot. */
export function alignedData(seen: OutputSeen, reads: Reads): uPlot.AlignedData {
  const lanes = seen.lines.map(pointsOf);
  const [first] = lanes;
  if (!first) return [[], [], []];
  const edge = (side: 1 | -1) =>
    first.v.map((x) => (x === null ? null : reads.fromSi(x + side * interpolate(seen.spread_at, seen.spread, x))));
  const scaled = (v: (number | null)[]) => v.map((x) => (x === null ? null : reads.fromSi(x)));
  const drawn: uPlot.AlignedData = [first.t, edge(1), edge(-1), scaled(first.v)];
  if (lanes.length === 1) return drawn;
  return uPlot.join([drawn, ...lanes.slice(1).map(({ t, v }) => [t, scaled(v)] as uPlot.AlignedData)]);
}

function interpolate(xs: number[], ys: number[], x: number): number {
  const last = xs.length - 1;
  if (last < 0) return 0;
  if (x <= (xs[0] ?? 0)) return ys[0] ?? 0;
  for (let i = 1; i <= last; i++) {
    const [a, b] = [xs[i - 1] ?? 0, xs[i] ?? 0];
    if (x <= b) {
      const share = b > a ? (x - a) / (b - a) : 0;
      return (ys[i - 1] ?? 0) * (1 - share) + (ys[i] ?? 0) * share;
    }
  }
  return ys[last] ?? 0;
}
