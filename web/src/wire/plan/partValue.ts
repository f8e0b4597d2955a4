import { numberOrNull } from "../../units/typed";

const SCALES: Record<string, number> = { n: 1e-9, u: 1e-6, m: 1e-3, "": 1, k: 1e3, M: 1e6 };

/** A part's value as people write it, such as 1.8k, 4k7, 100n; null when it is none. */
export function partValue(text: string): number | null {
  const value = numberOrNull(text.trim().replace(/\s*[ΩFVA]$/, ""));
  return value !== null && value > 0 ? Number(value.toPrecision(9)) : null;
}

/** A value as it is typed, such as 1.8k; empty for none. */
export function partText(value: number | null): string {
  if (value === null) return "";
  const letter = ["M", "k", "", "m", "u", "n"].find((one) => value >= scaleOf(one) * 0.9999999) ?? "p";
  return `${Number((value / scaleOf(letter)).toPrecision(9))}${letter}`;
}

function scaleOf(letter: string): number {
  return SCALES[letter] ?? 1e-12;
}
