import type { ElkExtendedEdge, ElkNode } from "elkjs/lib/elk-api";
import { workOut } from "./layoutWorker";
import {
  BEAD_PITCH,
  type Box,
  COMB_WIDTH,
  DOT,
  type LoomLayout,
  PEG_WIDTH,
  type Point,
  type Tooth,
  stringRoom,
  tagShape,
} from "./geometry";
import {
  type Dot,
  type Leg,
  type LoomModel,
  type Tag,
  type Thread,
  cardsOf,
  isStub,
  leftOf,
  rightOf,
  tabRows,
} from "./model";

const LEAD_PITCH = 21;
const TAB_PITCH = 20;
const CARD_WIDTH = 232;
const CARD_PADDING = 7;
const TOOTH = 22;
const PEG_PITCH = 14;
const COMB_PADDING = 6;
const MOST_COLUMNS = 3;

/** Cards left, comb right, beads between, with as few crossings as the layout finds. */
export async function layOut(model: LoomModel): Promise<LoomLayout> {
  const comb = combShape(model);
  const children: ElkNode[] = cardsOf(model).map((device) => {
    const mine = rightOf(model, device.id);
    const left = tabRows(leftOf(model, device.id));
    const height = Math.max(44, 2 * CARD_PADDING + mine.length * LEAD_PITCH, left * TAB_PITCH);
    return {
      id: `card ${device.id}`,
      width: CARD_WIDTH,
      height,
      ports: mine.map((one, index) => ({
        id: `lead ${one.id}`,
        x: CARD_WIDTH,
        y: height / 2 + (index - (mine.length - 1) / 2) * LEAD_PITCH,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": "EAST" },
      })),
      layoutOptions: { "elk.portConstraints": "FIXED_POS", "elk.layered.layering.layerConstraint": "FIRST" },
    };
  });
  children.push(...model.dots.map((dot) => ({ id: `dot ${dot.name}`, width: DOT, height: DOT })));
  children.push(...model.tags.map(tagNode));
  for (const thread of model.threads) {
    if (thread.beads.length > 0) children.push(beadNode(thread));
  }
  children.push({
    id: "comb",
    width: comb.width,
    height: comb.height,
    ports: model.pins
      .filter((pin) => pin.isUsed)
      .map((pin) => ({
        id: `tooth ${pin.name}`,
        x: 0,
        y: comb.places.get(pin.name)?.y ?? 0,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": "WEST" },
      })),
    layoutOptions: { "elk.portConstraints": "FIXED_POS", "elk.layered.layering.layerConstraint": "LAST" },
  });
  const edges = [
    ...model.threads.flatMap((thread) => edgesOf(model, thread)),
    ...model.tags.flatMap((tag) => legEdges(model, tag)),
  ];
  if (!edges.some((edge) => edge.targets[0]?.startsWith("tooth "))) edges.push(heldApart(children));
  const graph = await workOut({
    id: "loom",
    children,
    edges,
    layoutOptions: {
      "elk.algorithm": "layered",
      "elk.direction": "RIGHT",
      // A card nothing leaves yet stands in the column of the others all the same.
      "elk.separateConnectedComponents": "false",
      "elk.edgeRouting": "ORTHOGONAL",
      "elk.layered.spacing.nodeNodeBetweenLayers": "34",
      "elk.layered.spacing.edgeNodeBetweenLayers": "14",
      "elk.layered.spacing.edgeEdgeBetweenLayers": "11",
      "elk.spacing.nodeNode": "6",
      "elk.spacing.edgeNode": "9",
      "elk.spacing.edgeEdge": "9",
      "elk.layered.thoroughness": "40",
      "elk.layered.nodePlacement.strategy": "NETWORK_SIMPLEX",
      "elk.randomSeed": "1",
    },
  });
  return read(model, graph, comb);
}

/** An edge that is not drawn: it keeps the comb right of the cards while no thread goes to it. */
function heldApart(children: ElkNode[]): ElkExtendedEdge {
  const [first, comb] = [children[0], children.at(-1)];
  const port = { width: 0, height: 0, y: 1 };
  first?.ports?.push({ ...port, id: "apart from", x: first.width ?? 0, layoutOptions: { "elk.port.side": "EAST" } });
  comb?.ports?.push({ ...port, id: "apart to", x: 0, layoutOptions: { "elk.port.side": "WEST" } });
  return { id: "apart", sources: ["apart from"], targets: ["apart to"] };
}

function beadNode(thread: Thread): ElkNode {
  const width = thread.beads.length * BEAD_PITCH;
  const { above, below } = stringRoom(thread.beads.map((bead) => bead.kind));
  return {
    id: `beads ${thread.id}`,
    width,
    height: above + below,
    ports: [
      {
        id: `in ${thread.id}`,
        x: 0,
        y: above,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": "WEST" },
      },
      {
        id: `out ${thread.id}`,
        x: width,
        y: above,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": "EAST" },
      },
    ],
    layoutOptions: { "elk.portConstraints": "FIXED_POS" },
  };
}

function tagNode(tag: Tag): ElkNode {
  const { width, height, ports } = tagShape(tag);
  return {
    id: `tag ${tag.key}`,
    width,
    height,
    ports: tag.legs
      .filter((leg) => leg.way === "west" || leg.way === "east")
      .map((leg) => ({
        id: `leg ${leg.id}`,
        x: leg.way === "west" ? 0 : width,
        y: ports.get(leg.id)?.y ?? height / 2,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": leg.way === "west" ? "WEST" : "EAST" },
      })),
    layoutOptions: { "elk.portConstraints": "FIXED_POS" },
  };
}

/** Where a wire to a place arrives: at its joint's dot, or at its tooth. */
function arrival(dots: Dot[], place: string): string {
  return dots.some((dot) => dot.name === place) ? `dot ${place}` : `tooth ${place}`;
}

/** From the lead, past the joint others make at it, through its beads, to where it goes. */
function edgesOf({ dots }: LoomModel, thread: Thread): ElkExtendedEdge[] {
  const stops: [string, string][] = [[`lead ${thread.id}`, `lead ${thread.id}`]];
  if (dots.some((dot) => dot.lead === thread.id)) stops.push([`dot ${thread.id}`, `dot ${thread.id}`]);
  if (!isStub(thread)) {
    if (thread.beads.length > 0) stops.push([`in ${thread.id}`, `out ${thread.id}`]);
    const end = arrival(dots, thread.to);
    stops.push([end, end]);
  }
  return stops.slice(1).map(([into], index) => ({
    id: `run ${thread.id} ${index}`,
    sources: [stops[index]?.[1] ?? ""],
    targets: [into],
  }));
}

function legEdges({ dots }: LoomModel, tag: Tag): ElkExtendedEdge[] {
  const run = (leg: Leg): ElkExtendedEdge => {
    const [here, there] = [`leg ${leg.id}`, arrival(dots, leg.to)];
    const [from, to] = leg.way === "west" ? [there, here] : [here, there];
    return { id: `run ${leg.id} 0`, sources: [from], targets: [to] };
  };
  return tag.legs.filter((leg) => leg.way === "west" || leg.way === "east").map(run);
}

/** Where the pins are on the comb, from its left upper corner, and how large it is. */
interface CombShape {
  width: number;
  height: number;
  places: Map<string, Tooth>;
}

/** Teeth in use stand below each other at its left; pegs of free pins in columns at its right. */
function combShape(model: LoomModel): CombShape {
  const used = model.pins.filter((pin) => pin.isUsed);
  const free = model.pins.filter((pin) => !pin.isUsed);
  const least = Math.ceil(free.length / MOST_COLUMNS) * PEG_PITCH;
  const height = Math.max(used.length * TOOTH, least, 28) + 2 * COMB_PADDING;
  const rows = Math.max(1, Math.floor((height - 2 * COMB_PADDING) / PEG_PITCH));
  const first = height / 2 - (used.length * TOOTH) / 2;
  const places = new Map<string, Tooth>();
  used.forEach(({ name }, index) => places.set(name, { x: 0, y: first + (index + 0.5) * TOOTH, isFree: false }));
  free.forEach(({ name }, index) =>
    places.set(name, {
      x: COMB_WIDTH + Math.floor(index / rows) * PEG_WIDTH,
      y: COMB_PADDING + ((index % rows) + 0.5) * PEG_PITCH,
      isFree: true,
    }),
  );
  return { width: COMB_WIDTH + Math.ceil(free.length / rows) * PEG_WIDTH, height, places };
}

function read(model: LoomModel, graph: ElkNode, shape: CombShape): LoomLayout {
  const nodes = graph.children ?? [];
  const boxes = new Map(nodes.map((node) => [node.id, box(node)]));
  const comb = boxes.get("comb") ?? { x: 0, y: 0, width: 0, height: 0 };
  const called = (prefix: string) =>
    new Map(
      [...boxes].flatMap(([id, one]) => (id.startsWith(prefix) ? [[id.slice(prefix.length), one] as const] : [])),
    );
  const leads = new Map<string, Point>();
  for (const node of nodes) {
    for (const port of node.ports ?? []) {
      if (port.id.startsWith("lead "))
        leads.set(port.id.slice(5), { x: (node.x ?? 0) + (port.x ?? 0), y: (node.y ?? 0) + (port.y ?? 0) });
    }
  }
  const runs = new Map<string, Point[][]>();
  for (const id of [
    ...model.threads.map((one) => one.id),
    ...model.tags.flatMap((tag) => tag.legs.map((leg) => leg.id)),
  ]) {
    const mine = (graph.edges ?? []).filter((edge) => edge.id.startsWith(`run ${id} `));
    runs.set(id, mine.map(points));
  }
  return {
    width: graph.width ?? 0,
    height: graph.height ?? 0,
    cards: new Map([...called("card ")].map(([id, one]) => [Number(id), one])),
    leads,
    strings: called("beads "),
    dots: called("dot "),
    tags: called("tag "),
    runs,
    comb,
    teeth: new Map([...shape.places].map(([name, at]) => [name, { ...at, x: comb.x + at.x, y: comb.y + at.y }])),
  };
}

function box(node: ElkNode): Box {
  return { x: node.x ?? 0, y: node.y ?? 0, width: node.width ?? 0, height: node.height ?? 0 };
}

function points(edge: ElkExtendedEdge): Point[] {
  return (edge.sections ?? []).flatMap((section) => [
    section.startPoint,
    ...(section.bendPoints ?? []),
    section.endPoint,
  ]);
}
