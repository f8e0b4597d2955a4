import type { WiredDevice } from "../queries";
import { wireColour } from "../wireColours";
import { TabBead } from "./Beads";
import { Knot } from "./Knot";
import type { Box, LoomLayout } from "./geometry";
import { type Loose, type LoomModel, type Tab, leftOf, rightOf, tabRows } from "./model";
import type { Palette } from "./palette";

interface Props {
  model: LoomModel;
  layout: LoomLayout;
  palette: Palette;
  device: WiredDevice;
  box: Box;
  /** Where the middle of a rail's band is. */
  bandAt: (rail: string) => number;
}

/** A device's card: its words, its leads at the right, its supply and ground at the left. */
export function Card({ model, layout, palette, device, box, bandAt }: Props) {
  const left = leftOf(model, device.id);
  const right = rightOf(model, device.id);
  const rows = tabRows(left);
  const isFailing = device.wired.state === "failing";
  return (
    <>
      {left.map((tab, index) => {
        const y = box.y + ((tabRows(left.slice(0, index)) + 0.5) * box.height) / rows;
        return "rail" in tab ? (
          <CardTab
            key={tab.id}
            tab={tab}
            palette={palette}
            to={bandAt(tab.rail)}
            y={y}
            bandAt={bandAt}
            x={box.x}
            isGround={model.rails.find((rail) => rail.name === tab.rail)?.isGround ?? false}
          />
        ) : (
          <LooseEnd key={tab.id} loose={tab} x={box.x} y={y} way={-1} palette={palette} />
        );
      })}
      <rect
        x={box.x}
        y={box.y}
        width={box.width}
        height={box.height}
        rx={9}
        fill={palette.sheet}
        stroke={isFailing ? palette.error : palette.line}
        strokeWidth={isFailing ? 2 : 1.3}
      />
      <CardWords
        name={device.name}
        label={device.family_label}
        place={device.place}
        box={box}
        leads={right.length}
        palette={palette}
      />
      {right.map((one) => {
        const at = layout.leads.get(one.id);
        if (!at) return null;
        const isWired = "to" in one;
        return (
          <g key={one.id}>
            {isWired ? (
              <g data-lead={one.id} data-place={one.id} className="loom-lead">
                <circle
                  cx={at.x}
                  cy={at.y}
                  r={4.4}
                  fill={wireColour(one.colour)}
                  stroke={palette.casing}
                  strokeWidth={1}
                />
                <circle cx={at.x} cy={at.y} r={11} fill="transparent" />
              </g>
            ) : (
              <LooseEnd loose={one} x={at.x} y={at.y} way={1} palette={palette} />
            )}
            <text x={at.x - 10} y={at.y + 4} textAnchor="end" fontSize={14} fill={palette.ink}>
              {one.lead.name}
            </text>
          </g>
        );
      })}
    </>
  );
}

/** A lead nothing is on: a short end to take hold of. */
function LooseEnd({
  loose,
  x,
  y,
  way,
  palette,
}: {
  loose: Loose;
  x: number;
  y: number;
  way: 1 | -1;
  palette: Palette;
}) {
  return (
    <g
      data-lead={loose.id}
      data-place={loose.id}
      className="loom-lead loom-loose"
      role="button"
      tabIndex={0}
      aria-label={`${loose.words}: take it`}
    >
      <line x1={x} x2={x + 20 * way} y1={y} y2={y} stroke={palette.casing} strokeWidth={2.6} strokeDasharray="4 3" />
      <circle
        cx={x + 24 * way}
        cy={y}
        r={5}
        fill={palette.sheet}
        stroke={loose.severity === "error" ? palette.error : palette.accent}
        strokeWidth={2}
      />
      <circle cx={x + 18 * way} cy={y} r={13} fill="transparent" />
      {way < 0 && (
        <text x={x - 34} y={y + 4} textAnchor="end" fontSize={12.2} fill={palette.quiet}>
          {loose.lead.name}
        </text>
      )}
      {loose.severity && <Knot at={{ x: x + (way > 0 ? 46 : -88), y }} severity={loose.severity} palette={palette} />}
    </g>
  );
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
  box: Box;
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
  bandAt: (rail: string) => number;
}) {
  return (
    <g role="img" aria-label={tab.words} data-lead={tab.id} className="loom-lead">
      <line x1={to} x2={x} y1={y} y2={y} stroke={palette.casing} strokeWidth={5.4} />
      <line
        x1={to}
        x2={x}
        y1={y}
        y2={y}
        stroke={wireColour(tab.lead.end?.shown_colour ?? (isGround ? "black" : "red"))}
        strokeWidth={4}
      />
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
