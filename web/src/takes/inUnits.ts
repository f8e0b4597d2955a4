import type { Schemas } from "../api/client";
import { type UnitSystem, resultUnit } from "../units/units";

type Series = Schemas["SeriesOut"];
type TakeMark = Schemas["TakeMarkOut"];
type Selection = Schemas["SelectionOut"];

/** What a stage made, in the units chosen; what is raw stays as it came. */
export function seriesInUnits(system: UnitSystem, series: Series): Series {
  const { unit, perSi } = resultUnit(system, series.unit);
  if (series.stage === "" || perSi === 1) return series;
  const scaled = (values: (number | null)[]) => values.map((value) => value && value * perSi);
  return { ...series, unit, low: scaled(series.low), high: scaled(series.high) };
}

/** The same for what lies between A and B. */
export function selectionInUnits(system: UnitSystem, found: Selection, stage: string): Selection {
  const { unit, perSi } = resultUnit(system, found.unit);
  if (stage === "" || perSi === 1) return found;
  const scaled = (value: number | null) => value && value * perSi;
  return {
    ...found,
    unit,
    mean: scaled(found.mean),
    sd: scaled(found.sd),
    lowest: scaled(found.lowest),
    highest: scaled(found.highest),
    at_from: scaled(found.at_from),
    at_to: scaled(found.at_to),
    histogram_edges: found.histogram_edges.map((edge) => edge * perSi),
    spectrum: found.spectrum.map((density) => density * perSi),
    spectrum_unit: found.spectrum_unit.replace(/^m/, unit),
  };
}

/** A true value as it is read: one of a ranger is kept in metres. */
export function markInUnits(system: UnitSystem, mark: TakeMark): TakeMark {
  const { unit, perSi } = resultUnit(system, mark.unit);
  if (perSi === 1) return mark;
  return {
    ...mark,
    unit,
    true_value: mark.true_value && mark.true_value * perSi,
    true_u: mark.true_u && mark.true_u * perSi,
  };
}
