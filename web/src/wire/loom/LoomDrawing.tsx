import { type Ref } from "react";
import { Beads, TabBead } from "./Beads";
import { COMB_WIDTH, type LoomLayout, type Point } from "./geometry";
import { type LoomModel, type Severity, type Tab, tabRows } from "./model";
import type { Palette } from "./palette";
import { middleOf, softLine } from "./thread";
import { wireColour } from "../wireColours";

const BAND_WIDTH = 22;
const BAND_GAP = 6;
const TAB_ROOM = 74;
const FOOT = 10;
const EDGE = 14;
const FONT = "Atkinson Hyperlegible Next, sans-serif";

interface Props {
  model: LoomModel;
  layout: LoomLayout;
  palette: Palette;
  title: string;
  traced: string | null;
  onTrace: (id: string | null) => void;
  /** What part of the drawing is looked at: x, y, width, height. */
  view: [number, number, number, number];
  svgRef?: Ref<SVGSVGElement>;
}

/** How large the whole drawing is. */
export function drawingSize(model: LoomModel, layout: LoomLayout): [number, number] {
  const left = EDGE + model.rails.length * (BAND_WIDTH + BAND_GAP) + TAB_ROOM;
  const bottom = FOOT + model.rails.length * (BAND_WIDTH + BAND_GAP);
  return [left + layout.width + EDGE, EDGE + layout.height + bottom + EDGE];
}

/** The loom: cards on the left, the comb of pins on the right, threads between, bands around. */
export function LoomDrawing({ model, layout, palette, title, traced, onTrace, view, svgRef }: Props) {
  const left = EDGE + model.rails.length * (BAND_WIDTH + BAND_GAP) + TAB_ROOM;
  const top = EDGE;
  const bandX = new Map(model.rails.map((rail, index) => [rail.name, EDGE + index * (BAND_WIDTH + BAND_GAP)]));
  const [width, height] = drawingSize(model, layout);
  const ground = model.rails.find((rail) => rail.isGround)?.name ?? "ground";
  const faded = (id: string) => (traced !== null && !related(model, traced, id) ? 0.16 : 1);
  const trace = (id: string) => ({
    tabIndex: 0,
    role: "img",
    onPointerEnter: () => onTrace(id),
    onPointerLeave: () => onTrace(null),
    onFocus: () => onTrace(id),
    onBlur: () => onTrace(null),
  });
  return (
    <svg
      ref={svgRef}
      className="loom-drawing"
      viewBox={view.join(" ")}
      role="group"
      aria-label={title}
      fontFamily={FONT}
      xmlns="http://www.w3.org/2000/svg"
    >
      <rect x={0} y={0} width={width} height={height} fill={palette.ground} />
      {model.rails.map((rail, index) => (
        <Band
          key={rail.name}
          rail={rail}
          x={bandX.get(rail.name) ?? 0}
          top={EDGE}
          foot={top + layout.height + FOOT + (model.rails.length - 1 - index) * (BAND_WIDTH + BAND_GAP)}
          right={left + layout.comb.x + 14 + index * (BAND_WIDTH + 4)}
          combBottom={top + layout.comb.y + layout.comb.height}
          fill={rail.isGround ? palette.groundBand : (palette.bands[index % palette.bands.length] ?? "")}
          ink={rail.isGround ? palette.groundInk : (palette.bandInk[index % palette.bandInk.length] ?? "")}
        />
      ))}
      <g transform={`translate(${left} ${top})`}>
        <Comb model={model} layout={layout} palette={palette} traced={traced} />
        {model.threads.map((thread) => {
          const runs = layout.runs.get(thread.id) ?? [];
          const at = knotPlace(runs);
          const colour = wireColour(thread.colour);
          const bold = traced !== null && related(model, traced, thread.id);
          return (
            <g
              key={thread.id}
              className="loom-thread"
              opacity={faded(thread.id)}
              aria-label={thread.words}
              {...trace(thread.id)}
            >
              {runs.map((points, index) => (
                <g key={index} fill="none" strokeLinecap="round">
                  <path d={softLine(points)} stroke={palette.ground} strokeWidth={bold ? 9 : 7.5} />
                  <path d={softLine(points)} stroke={palette.casing} strokeWidth={bold ? 5.4 : 4} />
                  <path d={softLine(points)} stroke={colour} strokeWidth={bold ? 4 : 2.6} />
                  <path d={softLine(points)} stroke="transparent" strokeWidth={14} />
                </g>
              ))}
              <Beads
                thread={thread}
                place={layout.strings.get(thread.id)}
                palette={palette}
                colour={colour}
                ground={ground}
              />
              {thread.severity && <Knot at={at} severity={thread.severity} palette={palette} />}
            </g>
          );
        })}
        {[...layout.cards].map(([id, box]) => {
          const mine = model.threads.filter((thread) => thread.device.id === id);
          const tabs = model.tabs.filter((tab) => tab.device.id === id);
          const device = (mine[0] ?? tabs[0])?.device;
          if (!device) return null;
          const key = `card ${id}`;
          const rows = tabRows(tabs);
          return (
            <g key={id} opacity={faded(key)} aria-label={`${device.name}, ${device.family_label}`} {...trace(key)}>
              {tabs.map((tab, index) => (
                <CardTab
                  key={tab.id}
                  tab={tab}
                  palette={palette}
                  to={(bandX.get(tab.rail) ?? 0) + BAND_WIDTH / 2 - left}
                  y={box.y + ((tabRows(tabs.slice(0, index)) + 0.5) * box.height) / rows}
                  bandAt={(rail) => (bandX.get(rail) ?? bandX.get(ground) ?? 0) + BAND_WIDTH / 2 - left}
                  x={box.x}
                  isGround={model.rails.find((rail) => rail.name === tab.rail)?.isGround ?? false}
                />
              ))}
              <rect
                x={box.x}
                y={box.y}
                width={box.width}
                height={box.height}
                rx={9}
                fill={palette.sheet}
                stroke={device.wired.state === "failing" ? palette.error : palette.line}
                strokeWidth={device.wired.state === "failing" ? 2 : 1.3}
              />
              <CardWords
                name={device.name}
                label={device.family_label}
                place={device.place}
                box={box}
                leads={mine.length}
                palette={palette}
              />
              {mine.map((thread) => {
                const at = layout.leads.get(thread.id);
                return (
                  at && (
                    <g key={thread.id}>
                      <circle
                        cx={at.x}
                        cy={at.y}
                        r={4.4}
                        fill={wireColour(thread.colour)}
                        stroke={palette.casing}
                        strokeWidth={1}
                      />
                      <text x={at.x - 10} y={at.y + 4} textAnchor="end" fontSize={14} fill={palette.ink}>
                        {thread.lead.name}
                      </text>
                    </g>
                  )
                );
              })}
            </g>
          );
        })}
      </g>
    </svg>
  );
}

/** Whether two things light up together: a thread with those on its pin, a card with its threads. */
function related(model: LoomModel, traced: string, id: string): boolean {
  if (traced === id) return true;
  const card = /^card (\d+)$/.exec(traced);
  const thread = model.threads.find((one) => one.id === id);
  if (card) return thread?.device.id === Number(card[1]);
  const from = model.threads.find((one) => one.id === traced);
  if (!from) return false;
  if (id === `card ${from.device.id}`) return true;
  if (thread) return thread.to === from.to;
  return model.threads.some((one) => one.to === from.to && id === `card ${one.device.id}`);
}

function knotPlace(runs: Point[][]): Point {
  const longest = [...runs].sort((a, b) => b.length - a.length)[0] ?? [];
  return middleOf(longest);
}

function CardWords({
  name,
  label,
  place,
  box,
  leads,
  palette,
}: {
  name: string;
  label: string;
  place: string;
  box: { x: number; y: number; width: number; height: number };
  leads: number;
  palette: Palette;
}) {
  const room = box.width - (leads > 0 ? 62 : 20);
  const lines = box.height > 56 && place ? 3 : 2;
  const first = box.y + box.height / 2 - (lines === 3 ? 12 : 3);
  return (
    <>
      <text x={box.x + 11} y={first} fontSize={16} fontWeight={700} fill={palette.ink}>
        {cut(name, room / 8.2)}
      </text>
      <text x={box.x + 11} y={first + 16} fontSize={12.5} fill={palette.quiet}>
        {cut(label, room / 6.3)}
      </text>
      {lines === 3 && (
        <text x={box.x + 11} y={first + 31} fontSize={12.5} fill={palette.quiet}>
          {cut(place, room / 6.3)}
        </text>
      )}
    </>
  );
}

function cut(text: string, letters: number): string {
  const most = Math.floor(letters);
  return text.length > most ? `${text.slice(0, Math.max(1, most - 1)).trimEnd()}…` : text;
}

function Band({
  rail,
  x,
  top,
  foot,
  right,
  combBottom,
  fill,
  ink,
}: {
  rail: LoomModel["rails"][number];
  x: number;
  top: number;
  foot: number;
  right: number;
  combBottom: number;
  fill: string;
  ink: string;
}) {
  const half = BAND_WIDTH / 2;
  const [middle, floor] = [x + half, foot + half];
  const path =
    `M ${middle} ${top} V ${floor - 10} Q ${middle} ${floor} ${middle + 10} ${floor} ` +
    `H ${right - 10} Q ${right} ${floor} ${right} ${floor - 10} V ${combBottom}`;
  return (
    <g aria-label={`${rail.name} band`} role="img">
      <path d={path} fill="none" stroke={fill} strokeWidth={BAND_WIDTH} />
      <text x={(x + right) / 2} y={foot + half + 4.8} textAnchor="middle" fontSize={14} fontWeight={700} fill={ink}>
        {rail.isGround ? `${rail.name}, ground` : `${rail.name}, ${rail.volts.toFixed(1)} V`}
      </text>
    </g>
  );
}

function Comb({
  model,
  layout,
  palette,
  traced,
}: {
  model: LoomModel;
  layout: LoomLayout;
  palette: Palette;
  traced: string | null;
}) {
  const { comb, teeth } = layout;
  const spine = 34;
  const lit =
    traced === null
      ? null
      : new Set(model.threads.filter((thread) => related(model, traced, thread.id)).map((thread) => thread.to));
  return (
    <g>
      <rect
        x={comb.x + COMB_WIDTH - spine}
        y={comb.y}
        width={spine}
        height={comb.height}
        rx={9}
        fill={palette.ink}
        opacity={0.85}
      />
      {model.pins.map((pin) => {
        const at = teeth.get(pin.name);
        if (!at) return null;
        return pin.isUsed ? (
          <g key={pin.name} opacity={lit === null || lit.has(pin.name) ? 1 : 0.3}>
            <rect
              x={at.x}
              y={at.y - 8.5}
              width={COMB_WIDTH - spine + 6}
              height={17}
              rx={4}
              fill={palette.sheet}
              stroke={palette.ink}
              strokeWidth={1.2}
            />
            <text
              x={at.x + (COMB_WIDTH - spine) / 2 + 1}
              y={at.y + 4.4}
              textAnchor="middle"
              fontSize={14}
              fontWeight={700}
              fill={palette.ink}
            >
              {pin.name}
            </text>
          </g>
        ) : (
          <rect
            key={pin.name}
            x={at.x + 40}
            y={at.y - 1}
            width={COMB_WIDTH - spine - 36}
            height={2}
            fill={palette.line}
          >
            <title>{pin.name}, free</title>
          </rect>
        );
      })}
    </g>
  );
}

function CardTab({
  tab,
  palette,
  to,
  y,
  x,
  isGround,
  bandAt,
}: {
  tab: Tab;
  palette: Palette;
  to: number;
  y: number;
  x: number;
  isGround: boolean;
  /** Where a rail's band is; of the ground when it has none. */
  bandAt: (rail: string) => number;
}) {
  return (
    <g role="img" aria-label={tab.words}>
      <line x1={to} x2={x} y1={y} y2={y} stroke={palette.casing} strokeWidth={5.4} />
      <line x1={to} x2={x} y1={y} y2={y} stroke={wireColour(isGround ? "black" : "red")} strokeWidth={4} />
      <rect
        x={to - 8}
        y={y - 5.5}
        width={16}
        height={11}
        rx={3}
        fill={palette.sheet}
        stroke={palette.casing}
        strokeWidth={1.2}
      />
      <text x={x - 5} y={y - 5} textAnchor="end" fontSize={12.2} fill={palette.quiet}>
        {tab.lead.name}
      </text>
      {tab.beads.map((bead, index) => (
        <TabBead key={index} bead={bead} x={x - 52 - index * 30} y={y} palette={palette} bandX={bandAt(bead.rail)} />
      ))}
      {tab.severity && <Knot at={{ x: x - 46, y }} severity={tab.severity} palette={palette} />}
    </g>
  );
}

/** A finding, tied into the thread: shape and colour say how bad. */
function Knot({ at, severity, palette }: { at: Point; severity: Severity; palette: Palette }) {
  const colour = severity === "error" ? palette.error : severity === "warning" ? palette.warning : palette.note;
  return (
    <g role="img" aria-label={`${severity} here`} transform={`translate(${at.x} ${at.y})`}>
      <circle r={11} fill={palette.sheet} stroke={colour} strokeWidth={2} />
      <path
        d="M -16 -4 C -6 -10 6 10 16 4 M -16 4 C -6 10 6 -10 16 -4"
        fill="none"
        stroke={colour}
        strokeWidth={1.8}
        strokeLinecap="round"
      />
      {severity === "error" && <rect x={-4.4} y={-4.4} width={8.8} height={8.8} fill={colour} />}
      {severity === "warning" && <path d="M 0 -5.6 L 5.6 4.6 L -5.6 4.6 Z" fill={colour} />}
      {severity === "note" && <circle r={4.6} fill={colour} />}
    </g>
  );
}
