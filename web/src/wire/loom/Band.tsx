import { Knot } from "./Knot";
import type { Rail } from "./model";
import type { Palette } from "./palette";

const BAND_WIDTH = 22;
const GAP = 6;
const PEG_HEIGHT = 16;

export interface BandPlace {
  rail: Rail;
  /** Where its middle is from the left edge of all bands. */
  middle: number;
}

/** Where the bands stand beside each other: those something is on. */
export function bandPlaces(rails: Rail[]): { places: BandPlace[]; width: number } {
  const places = rails
    .filter((rail) => rail.isUsed)
    .map((rail, index) => ({ rail, middle: index * (BAND_WIDTH + GAP) + BAND_WIDTH / 2 }));
  return { places, width: places.length * (BAND_WIDTH + GAP) };
}

/** How much room the pegs of spare rails take below the bands. */
export function pegRoom(rails: Rail[]): number {
  return rails.some((rail) => !rail.isUsed) ? PEG_HEIGHT + 4 : 0;
}

interface Props {
  place: BandPlace;
  x: number;
  top: number;
  /** The middle of its run along the foot. */
  floor: number;
  right: number;
  combBottom: number;
  fill: string;
  ink: string;
  palette: Palette;
  isTarget: boolean;
}

/** A rail around the loom: tabs end on it, and so may anything else. */
export function Band({ place, x, top, floor, right, combBottom, fill, ink, palette, isTarget }: Props) {
  const { rail } = place;
  const path =
    `M ${x} ${top} V ${floor - 10} Q ${x} ${floor} ${x + 10} ${floor} ` +
    `H ${right - 10} Q ${right} ${floor} ${right} ${floor - 10} V ${combBottom}`;
  return (
    <g aria-label={`${rail.words} band`} role="img" data-place={rail.name} className="loom-band">
      {isTarget && <path d={path} fill="none" stroke={palette.accent} strokeWidth={BAND_WIDTH + 5} />}
      <path d={path} fill="none" stroke={fill} strokeWidth={BAND_WIDTH} opacity={rail.isUsed || isTarget ? 1 : 0.4} />
      {rail.isOwn && !rail.isGround && <Pack x={x} y={top} palette={palette} />}
      <text x={(x + right) / 2} y={floor + 4.8} textAnchor="middle" fontSize={14} fontWeight={700} fill={ink}>
        {rail.words}, {voltsOf(rail)}
      </text>
      {rail.severity && <Knot at={{ x: (x + right) / 2 - 150, y: floor }} severity={rail.severity} palette={palette} />}
    </g>
  );
}

/** Rails nothing is on yet: pegs in a row, to lead something to. */
export function SparePegs({
  rails,
  x,
  y,
  target,
  palette,
}: {
  rails: Rail[];
  x: number;
  y: number;
  target: string | null;
  palette: Palette;
}) {
  let at = x;
  return rails
    .filter((rail) => !rail.isUsed)
    .map((rail) => {
      const words = `${rail.words}, ${voltsOf(rail)}`;
      const width = 6.6 * words.length + 14;
      const left = at;
      at += width + GAP;
      const isTarget = target === rail.name;
      return (
        <g key={rail.name} data-place={rail.name} className="loom-band" role="img" aria-label={`${rail.words}, free`}>
          <rect
            x={left}
            y={y}
            width={width}
            height={PEG_HEIGHT}
            rx={4}
            fill={isTarget ? palette.accent : palette.ground}
            stroke={isTarget ? palette.accent : palette.line}
            strokeWidth={1.2}
          />
          <text
            x={left + width / 2}
            y={y + 12.2}
            textAnchor="middle"
            fontSize={12.2}
            fill={isTarget ? palette.ground : palette.quiet}
          >
            {words}
          </text>
        </g>
      );
    });
}

function voltsOf(rail: Rail): string {
  return rail.isGround ? "ground" : `${rail.volts.toFixed(1)} V`;
}

/** A supply of one's own, at the head of the band it feeds. */
function Pack({ x, y, palette }: { x: number; y: number; palette: Palette }) {
  return (
    <g transform={`translate(${x} ${y})`} fill={palette.sheet} stroke={palette.casing} strokeWidth={1.3}>
      <rect x={-4} y={-3} width={8} height={5} rx={1.5} />
      <rect x={-9} y={1} width={18} height={24} rx={3} />
      <path d="M -4 8 H 4 M 0 4 V 12 M -4 19 H 4" fill="none" strokeWidth={1.6} />
    </g>
  );
}
