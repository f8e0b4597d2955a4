import type { ShownBead } from "../queries";
import { wireColour } from "../wireColours";
import { BEAD_PITCH, type Box } from "./geometry";
import type { Thread } from "./model";
import type { Palette } from "./palette";

/** Parts strung on a thread: those in the wire lie along it, those to a rail stand or hang. */
export function Beads({ thread, place, palette, colour }: { thread: Thread; place: Box | undefined; palette: Palette; colour: string }) {
  if (!place) return null;
  const y = place.y + place.height / 2;
  return (
    <g>
      <line x1={place.x} x2={place.x + place.width} y1={y} y2={y} stroke={palette.casing} strokeWidth={4} />
      <line x1={place.x} x2={place.x + place.width} y1={y} y2={y} stroke={colour} strokeWidth={2.6} />
      {thread.beads.map((bead, index) => (
        <Bead key={index} bead={bead} x={place.x + (index + 0.5) * BEAD_PITCH} y={y} palette={palette} />
      ))}
    </g>
  );
}

function Bead({ bead, x, y, palette }: { bead: ShownBead; x: number; y: number; palette: Palette }) {
  const value = shortValue(bead);
  if (bead.kind === "series") {
    return (
      <g>
        <Resistor bead={bead} x={x} y={y} />
        <text x={x} y={y - 9} textAnchor="middle" fontSize={12} fontWeight={600} fill={palette.ink}>
          {value}
        </text>
      </g>
    );
  }
  const up = bead.kind === "pull_up" || bead.kind === "pin_pull_up";
  const end = bead.kind === "pull_up" ? `↑ ${bead.rail || "logic"}` : up ? "↑ in the pin" : "↓ ground";
  return (
    <g>
      <circle cx={x - 19} cy={y} r={3.6} fill={palette.ink} />
      {bead.kind === "capacitor" ? <Capacitor x={x + 2} y={y} /> : bead.kind === "pin_pull_up" ? null : <Resistor bead={bead} x={x + 2} y={y} />}
      <text x={x + 2} y={y - 9} textAnchor="middle" fontSize={12} fontWeight={600} fill={palette.ink}>
        {value}
      </text>
      <text x={x + 2} y={y + 17} textAnchor="middle" fontSize={11.5} fill={palette.quiet}>
        {end}
      </text>
    </g>
  );
}

/** A part on the short tab between a card and a band. */
export function TabBead({ bead, x, y, palette }: { bead: ShownBead; x: number; y: number; palette: Palette }) {
  return (
    <g>
      {bead.kind === "capacitor" ? <Capacitor x={x} y={y} /> : <Resistor bead={bead} x={x} y={y} />}
      <text x={x} y={y - 9} textAnchor="middle" fontSize={11.5} fill={palette.quiet}>
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
        <rect key={index} x={-9.5 + index * (15 / Math.max(3, all.length - 1)) + (index === all.length - 1 ? 2 : 0)} y={-5} width={2.4} height={10} fill={wireColour(band)} />
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
