/** The picture of a recording in a list, in units of its own. */
export const WIDTH = 600;
export const HEIGHT = 64;

interface Drawn {
  time_s: number[];
  low: (number | null)[];
  high: (number | null)[];
}

/** A line from low to high of each point, broken where there is no value. */
export function tracePath({ time_s, low, high }: Drawn, duration_s: number): string {
  const known = [...low, ...high].filter((value): value is number => value !== null);
  if (known.length === 0) return "";
  let bottom = Infinity;
  let top = -Infinity;
  for (const value of known) {
    bottom = Math.min(bottom, value);
    top = Math.max(top, value);
  }
  const room = Math.max(top - bottom, 1e-12);
  const x = (s: number) => ((WIDTH * s) / Math.max(duration_s, 1e-9)).toFixed(1);
  const y = (value: number) => (4 + (HEIGHT - 8) * (1 - (value - bottom) / room)).toFixed(1);
  let path = "";
  let isBroken = true;
  time_s.forEach((s, n) => {
    const under = low[n] ?? null;
    const over = high[n] ?? null;
    if (under === null || over === null) {
      isBroken = true;
      return;
    }
    path += `${isBroken ? "M" : "L"}${x(s)} ${y(under)}`;
    if (over !== under) path += `L${x(s)} ${y(over)}`;
    isBroken = false;
  });
  return path;
}
