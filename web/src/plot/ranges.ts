import type { PlotProps } from "./props";

/** The stretch of time on screen, s. */
export function shownRange({ view, range }: PlotProps): [number, number] {
  const [from, to] = range ?? [0, view.duration_s];
  return to > from ? [from, to] : [from - 0.5, from + 0.5];
}

/** The stretch of distance on screen: from 0 for all of a recording, close about it when zoomed. */
export function heightRange(
  { range, threshold }: PlotProps,
  low: number,
  high: number,
  perMetre: number,
): [number, number] {
  if (low == null || high == null) return [0, perMetre];
  if (range) {
    const room = Math.max(0.01 * perMetre, 0.15 * (high - low));
    return [low - room, high + room];
  }
  const top = Math.max(high, (threshold?.go_m ?? 0) * perMetre);
  return [0, top * 1.1];
}
