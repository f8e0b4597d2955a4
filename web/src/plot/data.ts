import type uPlot from "uplot";
import type { View } from "../api/queries";

/** Times, distances and both edges of their uncertainty, in the unit of the plot. */
export function alignedData(view: View, perMetre: number): uPlot.AlignedData {
  const distance = view.distance_m.map((d) => (d === null ? null : d * perMetre));
  const spread = (d: number) => interpolate(view.spread_at_m, view.spread_m, d);
  const upper = view.distance_m.map((d) => (d === null ? null : (d + spread(d)) * perMetre));
  const lower = view.distance_m.map((d) => (d === null ? null : (d - spread(d)) * perMetre));
  return [view.time_s, distance, upper, lower];
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
