const SCALES: Record<string, number> = {
  p: 1e-12,
  n: 1e-9,
  u: 1e-6,
  µ: 1e-6,
  m: 1e-3,
  "": 1,
  R: 1,
  k: 1e3,
  K: 1e3,
  M: 1e6,
};

/** A part's value as people write it, such as 1.8k, 4k7, 100n; null when it is none. */
export function partValue(text: string): number | null {
  const match = /^(\d{1,9})(?:[.,](\d{1,6}))?\s*([pnuµmRkKM]?)(\d{0,3})\s*[ΩF]?$/.exec(text.trim());
  if (!match) return null;
  const [, whole = "", decimals, letter = "", after = ""] = match;
  if ((decimals && after) || (after && !letter)) return null;
  // 1,000 may be one or a thousand.
  if (decimals?.length === 3 && !letter && text.includes(",")) return null;
  const value = Number(`${whole}.${decimals ?? (after || "0")}`) * scaleOf(letter);
  return value > 0 ? Number(value.toPrecision(9)) : null;
}

/** A value as it is typed, such as 1.8k; empty for none. */
export function partText(value: number | null): string {
  if (value === null) return "";
  const letter = ["M", "k", "", "m", "u", "n"].find((one) => value >= scaleOf(one) * 0.9999999) ?? "p";
  return `${Number((value / scaleOf(letter)).toPrecision(9))}${letter}`;
}

function scaleOf(letter: string): number {
  return SCALES[letter] ?? 1;
}
