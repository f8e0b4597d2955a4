import type { Kept, RulesBench } from "../rules/queries";
import type { ControlBench, PlantKind, Values } from "./queries";

/** A controller as it is kept. */
export interface Document {
  plant: string;
  plant_inputs: Values;
  rig_inputs: Values;
  settings: Values;
}

/** What is on the bench: a plant, the rig around it, and up to four settings. */
export interface Tried {
  plant: string;
  plantInputs: Values;
  rigInputs: Values;
  settings: Values[];
}

/** A plant as it usually is, with the usual controller. */
export function begun(kind: PlantKind, bench: ControlBench): Tried {
  const usual = kind.usual as Values;
  const own = (inputs: { name: string; default?: unknown }[]) =>
    Object.fromEntries(inputs.map((one) => [one.name, (usual[one.name] ?? one.default ?? null) as Values[string]]));
  return {
    plant: kind.name,
    plantInputs: Object.fromEntries(kind.inputs.map((one) => [one.name, (one.default ?? null) as Values[string]])),
    rigInputs: own(bench.rig),
    settings: [own(bench.controller)],
  };
}

export const documentOf = (kept: Kept) => kept.document as unknown as Document;

/** The bench as it stood when a controller was kept. */
export function asKept(kept: Document, bench: ControlBench): Tried {
  const kind = bench.plants.find((one) => one.name === kept.plant) ?? bench.plants[0];
  const first = kind ? begun(kind, bench) : { plant: "", plantInputs: {}, rigInputs: {}, settings: [{}] };
  return {
    plant: first.plant,
    plantInputs: { ...first.plantInputs, ...kept.plant_inputs },
    rigInputs: { ...first.rigInputs, ...kept.rig_inputs },
    settings: [{ ...first.settings[0], ...kept.settings }],
  };
}

/** Those values that belong to some inputs. */
export function pick(values: Values, inputs: { name: string }[]): Values {
  const known = new Set(inputs.map((one) => one.name));
  return Object.fromEntries(Object.entries(values).filter(([name]) => known.has(name)));
}

/** Outputs that a plant measured in a unit can be heard by; any number where it has no unit. */
export const hearing = (offered: RulesBench["offered"], unit: string) =>
  offered.filter(({ output }) => output.quantity.states.length === 0 && (unit === "" || output.quantity.unit === unit));

const IN_MEASURED = ["noise_u", "grain", "start", "target"];
const IN_STEERED = ["notch", "load"];

/** An input of the loop in the unit of what is measured, or of what steers. */
export function inUnitOf(one: ControlBench["rig"][number], kind: PlantKind): ControlBench["rig"][number] {
  if (IN_MEASURED.includes(one.name)) return { ...one, shown: kind.measured.shown };
  if (IN_STEERED.includes(one.name)) return { ...one, shown: kind.steered.shown };
  return one;
}
