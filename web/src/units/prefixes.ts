const PREFIXES: [number, string][] = [
  [1e6, "M"],
  [1e3, "k"],
  [1, ""],
  [1e-3, "m"],
  [1e-6, "µ"],
  [1e-9, "n"],
  [1e-12, "p"],
];
const TAKE_PREFIX = new Set(["Ω", "A", "V", "W", "s", "Hz", "F"]);

/** How large one step of the scale is that suits a value, and its unit: 0.0147 A gives [0.001, "mA"]. */
export function prefixFor(value: number, unit: string): [number, string] {
  if (!TAKE_PREFIX.has(unit) || value === 0) return [1, unit];
  const [scale, prefix] = PREFIXES.find(([size]) => Math.abs(value) >= size * 0.9999) ?? [1, ""];
  return [scale, prefix + unit];
}
