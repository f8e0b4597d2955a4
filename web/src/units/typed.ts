const POWERS: Record<string, number> = {
  p: -12,
  n: -9,
  u: -6,
  µ: -6,
  μ: -6,
  m: -3,
  k: 3,
  K: 3,
  M: 6,
  G: 9,
};
const PREFIXED = ["A", "V", "m", "Hz", "s", "W", "F", "Ω"];
const SPELLED: [string, string][] = [
  ["Ohm", "Ω"],
  ["ohm", "Ω"],
  ["ohms", "Ω"],
  ["R", "Ω"],
  ["C", "°C"],
];

/**
 * What a person typed, as a number of a unit; read as the command line reads it, and tried with the
 * same list. Throws in words where it can be read in two ways, or in none.
 */
export function typedNumber(text: string, unit = ""): number {
  const said = text.trim().replace("−", "-");
  if (/^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(said)) return Number(said);
  const match = /^([+-]?\d{1,12})(?:[.,](\d{1,20}))?\s*(.*)$/s.exec(said);
  if (!match) throw new Error(unread(said, unit));
  const [, whole = "", decimals, tail = ""] = match;
  if (said.includes(",") && decimals?.length === 3 && !tail) {
    throw new Error(`“${said}” may be ${said.replace(",", "")} or ${said.replace(",", ".")}; write which`);
  }
  const [base, scale] = baseOf(unit);
  const { letter, after, word } = partsOf(tail, base);
  if (after && decimals) throw new Error(unread(said, unit));
  if (letter && !word && scale) {
    throw new Error(`“${said}”: is that ${said} of ${base}, or of ${unit}? Write ${said}${base} or ${whole}${unit}`);
  }
  const power = (POWERS[letter] ?? 0) - (letter || word ? scale : 0);
  return Number(`${whole}.${decimals ?? (after || "0")}e${power}`);
}

/** The number somebody typed; null when it is none, or may be two. */
export function numberOrNull(text: string, unit = ""): number | null {
  try {
    return typedNumber(text, unit);
  } catch {
    return null;
  }
}

/** What is wrong with what stands in a field; nothing when it is a number, or empty. */
export function typingProblem(text: string, unit = ""): string | undefined {
  if (text.trim() === "") return undefined;
  try {
    typedNumber(text, unit);
    return undefined;
  } catch (error) {
    return (error as Error).message;
  }
}

/** A unit without its prefix, and the power of that: mA is A and −3. */
function baseOf(unit: string): [string, number] {
  const power = POWERS[unit[0] ?? ""];
  return power !== undefined && PREFIXED.includes(unit.slice(1)) ? [unit.slice(1), power] : [unit, 0];
}

function partsOf(tail: string, base: string): { letter: string; after: string; word: string } {
  let rest = tail.trim();
  for (const [word, symbol] of SPELLED) {
    // 220R has its point where the R stands; any other word is the unit written out.
    if (rest !== base && symbol === base && rest.endsWith(word) && rest !== "R")
      rest = rest.slice(0, -word.length).trim() + base;
  }
  if (rest === "" || rest === base) return { letter: "", after: "", word: rest };
  const match = /^([pnuµμmkKMGR])(\d{0,3})\s*(.*)$/s.exec(rest);
  const [, letter = "", after = "", word = ""] = match ?? [];
  if (!match || (word !== "" && word !== base) || (letter === "R" && base !== "" && base !== "Ω")) {
    throw new Error(`“${tail.slice(0, 20)}” after the number is no ${base || "unit"}`);
  }
  return { letter: letter === "R" ? "" : letter, after, word };
}

function unread(said: string, unit: string): string {
  const examples: Record<string, string> = { Ω: "4k7 or 4.7k", F: "100n", A: "15m or 0.015" };
  return said === ""
    ? "a number is missing"
    : `“${said.slice(0, 30)}” is no number; write it like ${examples[unit] ?? "12.5"}`;
}
