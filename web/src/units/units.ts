import { createContext, useContext } from "react";

/** The units a person reads. Everything else in the program is SI. */
export type UnitSystem = "metric" | "imperial";

export const UnitContext = createContext<UnitSystem>("metric");

export function useUnits(): UnitSystem {
  return useContext(UnitContext);
}

export type Quantity = "length" | "smallLength" | "temperature" | "temperatureStep" | "speed" | "acceleration";

interface Display {
  unit: string;
  fromSi: (value: number) => number;
  toSi: (value: number) => number;
}

const factor = (unit: string, perSi: number): Display => ({
  unit,
  fromSi: (value) => value * perSi,
  toSi: (value) => value / perSi,
});

const DISPLAYS: Record<UnitSystem, Record<Quantity, Display>> = {
  metric: {
    length: factor("m", 1),
    smallLength: factor("mm", 1000),
    temperature: factor("°C", 1),
    temperatureStep: factor("°C", 1),
    speed: factor("m/s", 1),
    acceleration: factor("m/s²", 1),
  },
  imperial: {
    length: factor("in", 1 / 0.0254),
    smallLength: factor("in", 1 / 0.0254),
    temperature: { unit: "°F", fromSi: (c) => c * 1.8 + 32, toSi: (f) => (f - 32) / 1.8 },
    temperatureStep: factor("°F", 1.8),
    speed: factor("mph", 3600 / 1609.344),
    acceleration: factor("ft/s²", 1 / 0.3048),
  },
};

export function display(system: UnitSystem, quantity: Quantity): Display {
  return DISPLAYS[system][quantity];
}

/** How a result in SI is shown: its unit and what its numbers are multiplied by. Other units stay as they are. */
export function resultUnit(system: UnitSystem, unit: string): { unit: string; perSi: number } {
  if (unit === "rad") return { unit: "°", perSi: 180 / Math.PI };
  if (unit !== "m") return { unit, perSi: 1 };
  const shown = display(system, "length");
  return { unit: shown.unit, perSi: shown.fromSi(1) };
}

/** Digits grouped by thin spaces, with a true minus sign. */
export function grouped(value: number, decimals: number): string {
  const [whole = "0", rest] = Math.abs(value).toFixed(decimals).split(".");
  const spaced = whole.replace(/\B(?=(\d{3})+$)/g, "\u202f");
  return `${value < 0 && Number(value.toFixed(decimals)) !== 0 ? "−" : ""}${spaced}${rest ? `.${rest}` : ""}`;
}

/** Decimals worth showing beside an expanded uncertainty: one digit of it, two if it begins 1 or 2. */
export function decimalsFor(spread: number): number {
  if (!(spread > 0) || !Number.isFinite(spread)) return 3;
  const exponent = Math.floor(Math.log10(spread));
  const digits = spread / 10 ** exponent < 2.95 ? 2 : 1;
  return Math.min(6, Math.max(0, digits - 1 - exponent));
}

/** A quantity in the chosen units with as many decimals as asked for in metric. */
export function quantityText(system: UnitSystem, quantity: Quantity, si: number, metricDecimals: number): string {
  const shown = display(system, quantity);
  return `${grouped(shown.fromSi(si), decimalsOf(system, quantity, metricDecimals))} ${shown.unit}`;
}

/** Decimals that show about the same step in the chosen units. */
export function decimalsOf(system: UnitSystem, quantity: Quantity, metricDecimals: number): number {
  if (system === "metric") return metricDecimals;
  if (quantity === "length") return Math.max(0, metricDecimals - 1);
  if (quantity === "smallLength") return metricDecimals + 2;
  return metricDecimals;
}

/** A value with its expanded uncertainty, both in the chosen units: ["0.995", "0.004", "m"]. */
export function measured(
  system: UnitSystem,
  quantity: Quantity,
  si: number,
  spreadSi: number,
): [string, string, string] {
  const shown = display(system, quantity);
  const scale = shown.fromSi(1) - shown.fromSi(0);
  const spread = spreadSi * scale;
  const decimals = decimalsFor(spread);
  return [grouped(shown.fromSi(si), decimals), grouped(spread, decimals), shown.unit];
}
