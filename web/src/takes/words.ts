import type { TakeMark } from "./queries";
import { decimalsFor, grouped } from "../units/units";

/** Such as "12.4 s", "3 min 20 s", "2 h 46 min". */
export function duration(s: number): string {
  if (s < 0.9995) return `${grouped(1000 * s, 0)} ms`;
  if (s < 119.95) return `${grouped(s, 1)} s`;
  // Rounded before it is parted: 2 min 59.7 s are 3 min 0 s.
  const whole = Math.round(s);
  if (whole < 7200) return `${Math.floor(whole / 60)} min ${whole % 60} s`;
  const minutes = Math.round(s / 60);
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** A number with about four figures, for a table of statistics. */
export function figures(value: number | null): string {
  if (value === null || !Number.isFinite(value)) return "–";
  if (value === 0) return "0";
  const size = Math.floor(Math.log10(Math.abs(value)));
  if (size >= 9 || size < -6) return value.toExponential(3);
  return grouped(value, Math.max(0, Math.min(8, 4 - size)));
}

/** A number beside its standard uncertainty: no more decimals than are worth it. */
export function within(value: number | null, u: number | null): string {
  if (value === null || !Number.isFinite(value)) return "–";
  if (u === null || !(u > 0)) return Number.isInteger(value) ? grouped(value, 0) : figures(value);
  return grouped(value, decimalsFor(2 * u));
}

/** A mark's true value as it was typed, or as finely as it is known. */
export function trueValue(mark: TakeMark): string {
  if (mark.value === null) return "";
  const text = mark.u === null ? String(Number(mark.value.toPrecision(6))) : within(mark.value, mark.u);
  return `${text} ${mark.unit}`.trim();
}

/** An uncertainty itself: two figures. */
export function scatter(u: number | null): string {
  if (u === null || !Number.isFinite(u)) return "–";
  return u > 0 ? grouped(u, Math.max(0, Math.min(9, 1 - Math.floor(Math.log10(u))))) : "0";
}

/** A time on a plot, with as many decimals as the window needs. */
export function plotTime(s: number, span: number): string {
  const decimals = span > 100 ? 1 : span > 1 ? 3 : 6;
  return `${grouped(s, decimals)} s`;
}

/** Quantities beside those of a series: Δt as s, ms or µs. */
export function shortTime(s: number): string {
  const size = Math.abs(s);
  if (size >= 1) return `${grouped(s, 3)} s`;
  if (size >= 1e-3) return `${grouped(1e3 * s, 3)} ms`;
  return `${grouped(1e6 * s, 0)} µs`;
}

export function frequency(hz: number | null): string {
  if (hz === null || !Number.isFinite(hz)) return "–";
  return `${hz >= 100 ? grouped(hz, 1) : hz >= 1 ? grouped(hz, 3) : grouped(hz, 5)} Hz`;
}
