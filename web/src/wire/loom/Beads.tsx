import type { ShownBead } from "../queries";
import { wireColour } from "../wireColours";
import { BEAD_PITCH, type Box, branchOf, stringRoom } from "./geometry";
import type { Thread } from "./model";
import type { Palette } from "./palette";

/** Parts of a thread: those in the wire lie along it, those to a rail branch off it to that rail's flag. */
export function Beads({
  thread,
  place,
  palette,
  colour,
  ground,
}: {
  thread: Thread;
  place: Box | undefined;
  palette: Palette;
  colour: string;
  /** What the ground rail is called. */
  ground: string;
}) {
  if (!place) return null;
  const y = place.y + stringRoom(thread.beads.map((bead) => bead.kind)).above;
  return (
    <g>
      <line x1={place.x} x2={place.x + place.width} y1={y} y2={y} stroke={palette.casing} strokeWidth={4} />
      <line x1={place.x} x2={place.x + place.width} y1={y} y2={y} stroke={colour} strokeWidth={2.6} />
      {thread.beads.map((bead, index) => {
        const x = place.x + (index + 0.5) * BEAD_PITCH;
        return branchOf(bead.kind) ? (
          <Branch key={index} bead={bead} x={x - 16} y={y} palette={palette} ground={ground} />
        ) : (
          <g key={index}>
            <Resistor bead={bead} x={x} y={y} />
            <text x={x} y={y - 9} textAnchor="middle" fontSize={12.2} fontWeight={600} fill={palette.ink}>
              {shortValue(bead)}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** A part between the wire and a rail: it leaves the wire at a dot and ends at the rail's flag. */
function Branch({
  bead,
  x,
  y,
  palette,
  ground,
}: {
  bead: ShownBead;
  x: number;
  y: number;
  palette: Palette;
  ground: string;
}) {
  const isUp = branchOf(bead.kind) === "up";
  const sign = isUp ? -1 : 1;
  const rail = bead.kind === "pin_pull_up" ? "in the pin" : isUp ? bead.rail || "logic" : ground;
  const width = Math.max(30, 7 * rail.length + 8);
  return (
    <g role="img" aria-label={`branch: ${bead.words}`}>
      <line x1={x} x2={x} y1={y} y2={y + 38 * sign} stroke={palette.casing} strokeWidth={2.4} />
      <circle cx={x} cy={y} r={3.8} fill={palette.ink} />
      <g transform={`rotate(90 ${x} ${y + 21 * sign})`}>
        {bead.kind === "capacitor" ? (
          <Capacitor x={x} y={y + 21 * sign} />
        ) : (
          <Resistor bead={bead} x={x} y={y + 21 * sign} />
        )}
      </g>
      <text x={x + 11} y={y + 21 * sign + 4} fontSize={12.2} fontWeight={600} fill={palette.ink}>
        {bead.kind === "pin_pull_up" ? "" : shortValue(bead)}
      </text>
      <rect
        x={x - 10}
        y={y + 45 * sign - 7.5}
        width={width}
        height={15}
        rx={3}
        fill={isUp ? palette.bands[0] : palette.groundBand}
      />
      <text
        x={x - 10 + width / 2}
        y={y + 45 * sign + 4}
        textAnchor="middle"
        fontSize={12.2}
        fontWeight={700}
        fill={isUp ? palette.bandInk[0] : palette.groundInk}
      >
        {rail}
      </text>
    </g>
  );
}

/** A part of the short tab between a card and a band: in it, or branching off it to another band. */
export function TabBead({
  bead,
  x,
  y,
  palette,
  bandX,
}: {
  bead: ShownBead;
  x: number;
  y: number;
  palette: Palette;
  /** Where the band is that the part goes to. */
  bandX: number;
}) {
  if (!branchOf(bead.kind)) {
    return (
      <g>
        <Resistor bead={bead} x={x} y={y} />
        <text x={x} y={y - 9} textAnchor="middle" fontSize={12.2} fill={palette.quiet}>
          {shortValue(bead)}
        </text>
      </g>
    );
  }
  const foot = y + 17;
  return (
    <g role="img" aria-label={`branch: ${bead.words}`}>
      <path d={`M ${x} ${y} V ${foot} H ${bandX}`} fill="none" stroke={palette.casing} strokeWidth={2.4} />
      <circle cx={x} cy={y} r={3.4} fill={palette.ink} />
      <circle cx={bandX} cy={foot} r={3.4} fill={palette.ink} />
      {bead.kind === "capacitor" ? (
        <Capacitor x={(x + bandX) / 2} y={foot} />
      ) : (
        <Resistor bead={bead} x={(x + bandX) / 2} y={foot} />
      )}
      <text x={x + 5} y={foot + 4} fontSize={12.2} fill={palette.ink}>
        {shortValue(bead)}
      </text>
    </g>
  );
}

function Resistor({ bead, x, y }: { bead: ShownBead; x: number; y: number }) {
  return (
    <g transform={`translate(${x} ${y})`}>
      <rect x={-15} y={-5.5} width={30} height={11} rx={5.5} fill="#e6d3ac" stroke="#6b5a30" strokeWidth={1} />
      {bead.bands?.map((band, index, all) => (
        <rect
          key={index}
          x={-9.5 + index * (15 / Math.max(3, all.length - 1)) + (index === all.length - 1 ? 2 : 0)}
          y={-5}
          width={2.4}
          height={10}
          fill={wireColour(band)}
        />
      ))}
    </g>
  );
}

function Capacitor({ x, y }: { x: number; y: number }) {
  return (
    <g transform={`translate(${x} ${y})`}>
      <ellipse cx={-4} rx={5} ry={7} fill="#d8a24a" stroke="#6b5a30" strokeWidth={1} />
      <ellipse cx={4} rx={5} ry={7} fill="#d8a24a" stroke="#6b5a30" strokeWidth={1} />
    </g>
  );
}

function shortValue(bead: ShownBead): string {
  return bead.kind === "pin_pull_up" ? "own pull-up" : bead.words.split(" ").slice(0, 2).join(" ");
}
