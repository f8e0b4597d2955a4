import { kindOf } from "../circuit/partKinds";
import { placeWords } from "../circuit/places";
import type { Lead, ShownBead, WiredDevice, Wiring } from "../queries";
import { branchOf } from "./geometry";

export type Severity = "error" | "warning" | "note" | "";

/** A lead of a device on its card; its id is also the name of the lead as a place. */
interface OnCard {
  id: string;
  device: WiredDevice;
  lead: Lead;
  beads: ShownBead[];
  severity: Severity;
  words: string;
}

/** A lead that ends on a pin or a joint: a thread from its device's card. */
export interface Thread extends OnCard {
  to: string;
  colour: string;
}

/** A lead that ends on a rail: a short tab from the card to the rail's band. */
export interface Tab extends OnCard {
  rail: string;
}

/** A lead nothing is on yet. isSupply: it belongs on a rail, at the left of its card. */
export interface Loose extends OnCard {
  isSupply: boolean;
}

/** A place where threads and legs meet. lead: the id of the lead it is, empty for a joint of its own. */
export interface Dot {
  name: string;
  words: string;
  lead: string;
}

/** A leg of a part. way: where it leaves the part; up and down are flags of the rail it goes to. */
export interface Leg {
  id: string;
  leg: string;
  /** What is written beside it: the rail of a flag, or which leg it is where that matters. */
  label: string;
  to: string;
  way: "west" | "east" | "up" | "down";
}

/** A part with legs of its own. */
export interface Tag {
  key: string;
  words: string;
  severity: Severity;
  legs: Leg[];
}

export interface Rail {
  /** The place it is. */
  name: string;
  words: string;
  isGround: boolean;
  volts: number;
  isOwn: boolean;
  isUsed: boolean;
  severity: Severity;
}

export interface LoomModel {
  threads: Thread[];
  tabs: Tab[];
  loose: Loose[];
  dots: Dot[];
  tags: Tag[];
  rails: Rail[];
  /** Every pin of the board in its order; those in use are drawn in full. */
  pins: { name: string; isUsed: boolean }[];
}

/** How many rows the left of a card takes: two for a tab that a part branches off. */
export function tabRows(tabs: (Tab | Loose)[]): number {
  return tabs.reduce((rows, tab) => rows + rowsOf(tab), 0);
}

function rowsOf(tab: Tab | Loose): number {
  return tab.beads.some((bead) => branchOf(bead.kind)) ? 2 : 1;
}

/** What is drawn at the left of a device's card: its tabs, and its supply leads that are loose. */
export function leftOf(model: LoomModel, device: number): (Tab | Loose)[] {
  return [...model.tabs, ...model.loose.filter((one) => one.isSupply)].filter((one) => one.device.id === device);
}

/** What leaves a device's card at the right, in the order of its leads. */
export function rightOf(model: LoomModel, device: number): (Thread | Loose)[] {
  const all = [...model.threads, ...model.loose.filter((one) => !one.isSupply)];
  const mine = all.filter((one) => one.device.id === device);
  const order = mine[0]?.device.leads.map((lead) => lead.name) ?? [];
  return mine.sort((one, other) => order.indexOf(one.lead.name) - order.indexOf(other.lead.name));
}

/** The devices that have a card, in the rig's order. */
export function cardsOf(model: LoomModel): WiredDevice[] {
  const all = [...model.threads, ...model.tabs, ...model.loose];
  return [...new Map(all.map((one) => [one.device.id, one.device])).values()];
}

/** Whether a thread only reaches the joint that others make at its own lead. */
export function isStub(thread: Thread): boolean {
  return thread.to === thread.id;
}

const ORDER: Severity[] = ["error", "warning", "note", ""];
const SUPPLY_ROLES = ["supply", "ground"];

/** What the loom draws, from the wiring as the server tells it. */
export function loomModel(wiring: Wiring): LoomModel {
  const pins = new Set(wiring.pins.map((pin) => pin.name));
  const ends = new Map(
    wiring.devices.flatMap((device) => device.leads.map((lead) => [`${device.id}.${lead.name}`, lead.end])),
  );
  const rails = railsOf(wiring);
  const targets = new Set([
    ...[...ends.values()].flatMap((end) => (end ? [end.to] : [])),
    ...wiring.parts.flatMap((part) => Object.values(part.ends)),
  ]);
  const railOf = (place: string) => leadsTo(wiring, ends, rails, place);
  const meetsAt = (place: string) => ends.has(place) && targets.has(place) && railOf(place) === null;
  const dots = [
    ...wiring.joints.map((name) => ({ name, words: `joint ${name}`, lead: "" })),
    ...[...ends.keys()].filter(meetsAt).map((name) => ({ name, words: placeWords(wiring, name), lead: name })),
  ];
  const threads: Thread[] = [];
  const tabs: Tab[] = [];
  const loose: Loose[] = [];
  for (const device of wiring.devices) {
    for (const lead of device.leads) {
      const { end } = lead;
      const id = `${device.id}.${lead.name}`;
      const name = `${device.name} ${lead.name}`;
      const parts = (end?.beads ?? []).map((bead) => bead.words);
      const through = parts.length ? `, through ${parts.join(", ")}` : "";
      const common = {
        id,
        device,
        lead,
        beads: end?.beads ?? [],
        severity: severityAt(wiring, (spot) => spot.device === device.id && spot.lead === lead.name),
        words: end
          ? `${name} to ${placeWords(wiring, end.to)}, ${end.shown_colour}${through}`
          : `${name} goes nowhere yet`,
      };
      const rail = end && railOf(end.to);
      if (end && rail) tabs.push({ ...common, rail });
      if (end && !rail) threads.push({ ...common, to: end.to, colour: end.shown_colour });
      // Others join it here, whatever it does itself.
      else if (meetsAt(id)) threads.push({ ...common, beads: [], to: id, colour: end?.shown_colour ?? "grey" });
      else if (!end && !lead.is_optional) loose.push({ ...common, isSupply: SUPPLY_ROLES.includes(lead.role) });
    }
  }
  const tags = wiring.parts.map((part) => tagOf(wiring, part, pins, rails, railOf));
  const used = new Set([
    ...threads.map((thread) => thread.to),
    ...tags.flatMap((tag) => tag.legs.map((leg) => leg.to)),
  ]);
  const taken = new Set(tabs.map((tab) => tab.rail));
  return {
    threads,
    tabs,
    loose,
    dots,
    tags,
    rails: rails.map((rail) => ({ ...rail, isUsed: rail.isOwn || taken.has(rail.name) })),
    pins: wiring.pins.map((pin) => ({ name: pin.name, isUsed: used.has(pin.name) })),
  };
}

function railsOf(wiring: Wiring): Rail[] {
  const severity = (name: string) => severityAt(wiring, (spot) => spot.device === null && spot.part === name);
  const own = wiring.supplies.flatMap((supply) => [
    { supply, name: supply.plus, isGround: false },
    ...(supply.has_common_ground ? [] : [{ supply, name: supply.minus, isGround: true }]),
  ]);
  return [
    ...wiring.rails.map((rail) => ({
      name: rail.name,
      words: rail.name,
      isGround: rail.kind === "ground",
      volts: rail.volts,
      isOwn: false,
      isUsed: false,
      severity: severity(rail.name),
    })),
    ...own.map(({ supply, name, isGround }) => ({
      name,
      words: placeWords(wiring, name),
      isGround,
      volts: isGround ? 0 : (supply.volts[1] ?? 0),
      isOwn: true,
      isUsed: true,
      severity: isGround ? ("" as const) : severity(supply.key),
    })),
  ];
}

/** The rail a place is, or is led to by bare wire alone; null when it is none. */
function leadsTo(wiring: Wiring, ends: Map<string, Lead["end"]>, rails: Rail[], place: string): string | null {
  const seen = new Set<string>();
  let at = place;
  while (!seen.has(at)) {
    seen.add(at);
    if (rails.some((rail) => rail.name === at)) return at;
    if (wiring.supplies.some((supply) => supply.minus === at)) return rails.find((rail) => rail.isGround)?.name ?? at;
    const end = ends.get(at);
    if (!end || end.beads.length > 0) return null;
    at = end.to;
  }
  return null;
}

function tagOf(
  wiring: Wiring,
  part: Wiring["parts"][number],
  pins: Set<string>,
  rails: Rail[],
  railOf: (place: string) => string | null,
): Tag {
  const { legs } = kindOf(part.kind);
  const isSame = "a" in legs && Object.keys(legs).length === 2;
  const used: Leg["way"][] = [];
  return {
    key: part.key,
    words: part.words,
    severity: severityAt(wiring, (spot) => spot.part === part.key),
    legs: Object.entries(part.ends).map(([leg, to]) => {
      const rail = rails.find((one) => one.name === railOf(to));
      const way = rail ? (rail.isGround ? "down" : "up") : sideOf(to, pins, used);
      used.push(way);
      const flag = way === "up" || way === "down" ? placeWords(wiring, to) : "";
      const name = isSame ? "" : ((legs[leg] ?? leg).split(",")[0] ?? leg);
      return { id: `${part.key} ${leg}`, leg, label: [name, flag].filter(Boolean).join(" · "), to, way };
    }),
  };
}

/** Legs to pins leave for the comb; of two to joints, the second does. */
function sideOf(to: string, pins: Set<string>, used: Leg["way"][]): "west" | "east" {
  if (pins.has(to)) return "east";
  return used.includes("west") && !used.includes("east") ? "east" : "west";
}

type Spot = Wiring["findings"][number]["spots"][number];

function severityAt(wiring: Wiring, isThere: (spot: Spot) => boolean): Severity {
  const found = wiring.findings
    .filter((finding) => finding.spots.some(isThere))
    .map((finding) => finding.severity as Severity);
  return ORDER.find((severity) => found.includes(severity)) ?? "";
}
