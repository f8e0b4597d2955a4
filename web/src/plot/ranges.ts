import type { Reads } from "../units/shown";
import type { PlotProps } from "./props";

/** The stretch of time on screen, s. */
export function shownRange({ durationS, range }: Pick<PlotProps, "durationS" | "range">): [number, number] {
  const [from, to] = range ?? [0, durationS];
  return to > from ? [from, to] : [from - 0.5, from + 0.5];
}

/**
 * The stretch of values on screen, in the unit of the plot: from 0 for all of a recording of what is
 * never below, with the levels that are drawn; close about the values when zoomed.
 */
export function heightRange(
  { range, seen }: Pick<PlotProps, "range" | "seen">,
  low: number,
  high: number,
  reads: Reads,
): [number, number] {
  if (low == null || high == null) return [0, reads.step(1)];
  if (range) {
    const room = Math.max(0.15 * (high - low), 10 ** -reads.decimals * 10);
    return [low - room, high + room];
  }
  const levels = seen.levels.map((level) => reads.fromSi(level.at));
  const [bottom, top] = [Math.min(low, ...levels), Math.max(high, ...levels)];
  if (bottom >= 0) return [0, (top || 1) * 1.1];
  const room = 0.1 * (top - bottom || 1);
  return [bottom - room, top + room];
}
