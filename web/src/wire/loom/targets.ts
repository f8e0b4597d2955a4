import { placeWords } from "../circuit/places";
import { kindOf } from "../circuit/partKinds";
import type { Lead, Part, WiredDevice, Wiring } from "../queries";
import type { LoomModel } from "./model";

/** What a person has in hand: a lead of a device, or a leg of a part. */
export type InHand =
  | { id: string; name: string; device: WiredDevice; lead: Lead; to: string }
  | { id: string; name: string; part: Part; leg: string; to: string };

/** What an id of the loom is, as it stands in the wiring; undefined when it is gone. */
export function inHand(wiring: Wiring, id: string): InHand | undefined {
  for (const device of wiring.devices) {
    const lead = device.leads.find((one) => `${device.id}.${one.name}` === id);
    if (lead) return { id, name: `${device.name} ${lead.name}`, device, lead, to: lead.end?.to ?? "" };
  }
  for (const part of wiring.parts) {
    for (const [leg, to] of Object.entries(part.ends)) {
      const words = (kindOf(part.kind).legs[leg] ?? leg).split(",")[0] ?? leg;
      if (`${part.key} ${leg}` === id) return { id, name: `${part.key}, ${words}`, part, leg, to };
    }
  }
  return undefined;
}

/** Whether a pin can do what is asked of it. A leg asks nothing. */
export function fitsPin(wiring: Wiring, held: InHand, pin: string): boolean {
  const wants = "lead" in held ? held.lead.wants : [];
  const abilities = wiring.pins.find((one) => one.name === pin)?.abilities ?? [];
  return wants.every((want) => abilities.includes(want));
}

/** Every place on the loom that what is in hand may go to, in the order the keys walk them. */
export function targetsFor(wiring: Wiring, model: LoomModel, held: InHand): { place: string; words: string }[] {
  const pins = model.pins.map(({ name, isUsed }) => {
    const fit = fitsPin(wiring, held, name) ? "" : ", cannot do what this lead asks";
    return { place: name, words: `pin ${name}${isUsed ? ", in use" : ", free"}${fit}` };
  });
  const rails = model.rails.map((rail) => ({ place: rail.name, words: rail.words }));
  const dots = model.dots.map((dot) => ({ place: dot.name, words: dot.words }));
  const known = new Set(dots.map((dot) => dot.place));
  const leads = [...model.threads, ...model.loose]
    .filter((one) => !known.has(one.id))
    .map((one) => ({ place: one.id, words: `join ${placeWords(wiring, one.id)}` }));
  const all = [...pins, ...rails, ...dots, ...leads];
  return all.filter((one) => "part" in held || one.place !== held.id);
}
