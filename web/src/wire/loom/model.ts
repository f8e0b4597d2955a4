import type { Lead, ShownBead, WiredDevice, Wiring } from "../queries";
import { placeWords } from "../circuit/places";
import { branchOf } from "./geometry";

/** A lead that ends on a pin: a thread from its device's card to a tooth of the comb. */
export interface Thread {
  id: string;
  device: WiredDevice;
  lead: Lead;
  to: string;
  colour: string;
  beads: ShownBead[];
  severity: Severity;
  words: string;
}

/** A lead that ends on a rail: a short tab from the card to the rail's band. */
export interface Tab {
  id: string;
  device: WiredDevice;
  lead: Lead;
  rail: string;
  beads: ShownBead[];
  severity: Severity;
  words: string;
}

/** How many rows each tab of a card takes: two where a part branches off it. */
export function tabRows(tabs: Tab[]): number {
  return tabs.reduce((rows, tab) => rows + rowsOf(tab), 0);
}

function rowsOf(tab: Tab): number {
  return tab.beads.some((bead) => branchOf(bead.kind)) ? 2 : 1;
}

export type Severity = "error" | "warning" | "note" | "";

export interface LoomModel {
  threads: Thread[];
  tabs: Tab[];
  rails: { name: string; isGround: boolean; volts: number }[];
  /** Every pin of the board in its order; those in use are drawn in full. */
  pins: { name: string; isUsed: boolean }[];
}

const ORDER: Severity[] = ["error", "warning", "note", ""];

/** What the loom draws, from the wiring as the server tells it. */
export function loomModel(wiring: Wiring): LoomModel {
  const pins = new Set(wiring.pins.map((pin) => pin.name));
  const threads: Thread[] = [];
  const tabs: Tab[] = [];
  for (const device of wiring.devices) {
    for (const lead of device.leads) {
      const { end } = lead;
      if (!end) continue;
      const parts = end.beads.map((bead) => bead.words);
      const through = parts.length ? `, through ${parts.join(", ")}` : "";
      const place = placeWords(wiring, end.to);
      const words = `${device.name} ${lead.name} to ${place}, ${end.shown_colour}${through}`;
      const common = {
        id: `${device.id}.${lead.name}`,
        device,
        lead,
        beads: end.beads,
        severity: severityAt(wiring, device.id, lead.name),
        words,
      };
      if (pins.has(end.to)) threads.push({ ...common, to: end.to, colour: end.shown_colour });
      else tabs.push({ ...common, rail: place });
    }
  }
  const used = new Set(threads.map((thread) => thread.to));
  const taken = new Set(tabs.map((tab) => tab.rail));
  return {
    threads,
    tabs,
    rails: [
      ...wiring.rails.map((rail) => ({ name: rail.name, isGround: rail.kind === "ground", volts: rail.volts })),
      ...wiring.places.map((place) => ({
        name: place.words,
        isGround: isMinus(wiring, place.name),
        volts: voltsAt(wiring, place.name),
      })),
    ].filter((rail) => taken.has(rail.name)),
    pins: wiring.pins.map((pin) => ({ name: pin.name, isUsed: used.has(pin.name) })),
  };
}

function isMinus(wiring: Wiring, place: string): boolean {
  return wiring.supplies.some((supply) => supply.minus === place);
}

/** The usual volts of a supply at its plus; 0 where a place is no source. */
function voltsAt(wiring: Wiring, place: string): number {
  return wiring.supplies.find((supply) => supply.plus === place)?.volts[1] ?? 0;
}

function severityAt(wiring: Wiring, device: number, lead: string): Severity {
  const found = wiring.findings
    .filter((finding) => finding.spots.some((spot) => spot.device === device && spot.lead === lead))
    .map((finding) => finding.severity as Severity);
  return ORDER.find((severity) => found.includes(severity)) ?? "";
}
