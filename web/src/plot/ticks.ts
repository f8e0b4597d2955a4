import { grouped } from "../units/units";

const MOST_DECIMALS = 6;

/** The labels of an axis: all with as many decimals as its step needs, the last with its unit. */
export function tickLabels(splits: number[], unit: string): string[] {
  const step = Math.abs((splits[1] ?? 0) - (splits[0] ?? 0));
  const largest = Math.max(...splits.map(Math.abs), 0);
  const decimals = decimalsOf(step);
  return splits.map((value, n) => {
    const isOdd = largest >= 1e9 || (step > 0 && step < 10 ** -MOST_DECIMALS);
    const text = isOdd ? value.toExponential(2) : grouped(value, decimals);
    return n === splits.length - 1 && unit ? `${text} ${unit}` : text;
  });
}

/** The fewest decimals that tell the steps of an axis apart and say each exactly. */
function decimalsOf(step: number): number {
  for (let decimals = 0; decimals < MOST_DECIMALS; decimals++) {
    const scaled = step * 10 ** decimals;
    if (scaled >= 0.999 && Math.abs(scaled - Math.round(scaled)) < 1e-6 * scaled) return decimals;
  }
  return step > 0 ? MOST_DECIMALS : 0;
}
