import type { ElkExtendedEdge, ElkNode } from "elkjs/lib/elk-api";
import { workOut } from "./layoutWorker";
import { BEAD_PITCH, type Box, COMB_WIDTH, type LoomLayout, type Point, stringRoom } from "./geometry";
import { type LoomModel, type Thread, tabRows } from "./model";

const LEAD_PITCH = 21;
const TAB_PITCH = 20;
const CARD_WIDTH = 232;
const CARD_PADDING = 7;
const TOOTH = 22;
const SHORT_TOOTH = 5;

/** Cards left, comb right, beads between, with as few crossings as the layout finds. */
export async function layOut(model: LoomModel): Promise<LoomLayout> {
  const teeth = toothHeights(model);
  const devices = [...new Map([...model.threads, ...model.tabs].map((one) => [one.device.id, one.device])).values()];
  const children: ElkNode[] = devices.map((device) => {
    const mine = model.threads.filter((thread) => thread.device.id === device.id);
    const tabs = model.tabs.filter((tab) => tab.device.id === device.id);
    const height = Math.max(44, 2 * CARD_PADDING + mine.length * LEAD_PITCH, tabRows(tabs) * TAB_PITCH);
    return {
      id: `card ${device.id}`,
      width: CARD_WIDTH,
      height,
      ports: mine.map((thread, index) => ({
        id: `lead ${thread.id}`,
        x: CARD_WIDTH,
        y: height / 2 + (index - (mine.length - 1) / 2) * LEAD_PITCH,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": "EAST" },
      })),
      layoutOptions: { "elk.portConstraints": "FIXED_POS", "elk.layered.layering.layerConstraint": "FIRST" },
    };
  });
  for (const thread of model.threads) {
    if (thread.beads.length > 0) children.push(beadNode(thread));
  }
  const combHeight = [...teeth.values()].at(-1)?.bottom ?? 40;
  children.push({
    id: "comb",
    width: COMB_WIDTH,
    height: combHeight,
    ports: model.pins
      .filter((pin) => pin.isUsed)
      .map((pin) => ({
        id: `tooth ${pin.name}`,
        x: 0,
        y: teeth.get(pin.name)?.middle ?? 0,
        width: 0,
        height: 0,
        layoutOptions: { "elk.port.side": "WEST" },
      })),
    layoutOptions: { "elk.portConstraints": "FIXED_POS", "elk.layered.layering.layerConstraint": "LAST" },
  });
  const graph = await workOut({
    id: "loom",
    children,
    edges: model.threads.flatMap(edgesOf),
    layoutOptions: {
      "elk.algorithm": "layered",
      "elk.direction": "RIGHT",
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
  return read(model, graph, teeth);
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

function edgesOf(thread: Thread): ElkExtendedEdge[] {
  const from = `lead ${thread.id}`;
  const to = `tooth ${thread.to}`;
  if (thread.beads.length === 0) return [{ id: `run ${thread.id} 0`, sources: [from], targets: [to] }];
  return [
    { id: `run ${thread.id} 0`, sources: [from], targets: [`in ${thread.id}`] },
    { id: `run ${thread.id} 1`, sources: [`out ${thread.id}`], targets: [to] },
  ];
}

function toothHeights(model: LoomModel): Map<string, { middle: number; bottom: number }> {
  const teeth = new Map<string, { middle: number; bottom: number }>();
  let y = 6;
  for (const pin of model.pins) {
    const height = pin.isUsed ? TOOTH : SHORT_TOOTH;
    teeth.set(pin.name, { middle: y + height / 2, bottom: y + height + 6 });
    y += height;
  }
  return teeth;
}

function read(model: LoomModel, graph: ElkNode, teeth: Map<string, { middle: number; bottom: number }>): LoomLayout {
  const boxes = new Map((graph.children ?? []).map((node) => [node.id, box(node)]));
  const comb = boxes.get("comb") ?? { x: 0, y: 0, width: 0, height: 0 };
  const cards = new Map<number, Box>();
  const leads = new Map<string, Point>();
  const strings = new Map<string, Box>();
  const runs = new Map<string, Point[][]>();
  for (const node of graph.children ?? []) {
    const card = /^card (\d+)$/.exec(node.id);
    if (card) cards.set(Number(card[1]), box(node));
    for (const port of node.ports ?? []) {
      if (port.id.startsWith("lead "))
        leads.set(port.id.slice(5), { x: (node.x ?? 0) + (port.x ?? 0), y: (node.y ?? 0) + (port.y ?? 0) });
    }
  }
  for (const thread of model.threads) {
    const string = boxes.get(`beads ${thread.id}`);
    if (string) strings.set(thread.id, string);
    const mine = (graph.edges ?? []).filter((edge) => edge.id.startsWith(`run ${thread.id} `));
    runs.set(thread.id, mine.map(points));
  }
  return {
    width: graph.width ?? 0,
    height: graph.height ?? 0,
    cards,
    leads,
    strings,
    runs,
    comb,
    teeth: new Map([...teeth].map(([name, tooth]) => [name, { x: comb.x, y: comb.y + tooth.middle }])),
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
