import { grouped } from "../units/units";

/** A number of any size in few figures; `span` is the height of what is shown, 0 for the number itself. */
export function shortNumber(value: number, span: number): string {
  if (!Number.isFinite(value)) return "–";
  if (Number.isInteger(value) && Math.abs(value) < 1e9) return grouped(value, 0);
  const size = span > 0 ? span / 50 : Math.abs(value) / 1000;
  if (Math.abs(value) >= 1e9 || (Math.abs(value) < 1e-4 && value !== 0)) return value.toExponential(2);
  const decimals = size > 0 ? Math.min(6, Math.max(0, Math.ceil(-Math.log10(size)))) : 2;
  return grouped(value, decimals);
}

export function statusWords(status: string): string {
  return status === "ok" ? "–" : status.replaceAll("_", " ");
}

/** Bytes, lines a second and the like, with few figures. */
export function rate(hz: number): string {
  return hz >= 100 ? grouped(hz, 0) : hz >= 10 ? grouped(hz, 1) : grouped(hz, 2);
}

export function jitter(us: number | null): string {
  if (us === null) return "–";
  return us >= 1_000 ? `± ${grouped(us / 1_000, us >= 10_000 ? 0 : 1)} ms` : `± ${grouped(us, 0)} µs`;
}
