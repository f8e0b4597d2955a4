import type { Schemas } from "../api/client";
import { readsIn } from "../units/shown";
import { type UnitSystem, resultUnit } from "../units/units";

type Series = Schemas["SeriesOut"];
type Mark = Schemas["MarkOut"];
type Selection = Schemas["SelectionOut"];

/** What a stage made, in the units chosen; what is raw stays as it came. */
export function seriesInUnits(system: UnitSystem, series: Series): Series {
  if (series.stage === "") return series;
  const reads = readsIn(system, series.shown);
  const scaled = (values: (number | null)[]) => values.map((value) => (value === null ? null : reads.fromSi(value)));
  return { ...series, unit: reads.unit, low: scaled(series.low), high: scaled(series.high) };
}

/** The same for what lies between A and B. */
export function selectionInUnits(system: UnitSystem, found: Selection, stage: string): Selection {
  if (stage === "") return found;
  const reads = readsIn(system, found.shown);
  const at = (value: number | null) => (value === null ? null : reads.fromSi(value));
  return {
    ...found,
    unit: reads.unit,
    mean: at(found.mean),
    sd: found.sd === null ? null : reads.step(found.sd),
    lowest: at(found.lowest),
    highest: at(found.highest),
    at_from: at(found.at_from),
    at_to: at(found.at_to),
    histogram_edges: found.histogram_edges.map((edge) => reads.fromSi(edge)),
    spectrum: found.spectrum.map((density) => reads.step(density)),
    spectrum_unit: `${reads.unit || "1"}/√Hz`,
  };
}

/** A true value as it is read: one in metres is kept in metres. */
export function markInUnits(system: UnitSystem, mark: Mark): Mark {
  const { unit, perSi } = resultUnit(system, mark.unit);
  if (perSi === 1) return mark;
  return {
    ...mark,
    unit,
    value: mark.value && mark.value * perSi,
    u: mark.u && mark.u * perSi,
  };
}
