import { COMB_WIDTH, type LoomLayout, PEG_WIDTH } from "./geometry";
import type { LoomModel } from "./model";
import type { Palette } from "./palette";

interface Props {
  model: LoomModel;
  layout: LoomLayout;
  palette: Palette;
  /** The pins that are lit; null when all are. */
  lit: Set<string> | null;
  /** The place a lead in hand would go to. */
  target: string | null;
  /** Whether a pin can do what the lead in hand asks of it; null when none is in hand. */
  fits: ((pin: string) => boolean) | null;
}

const SPINE = 34;

/** The board's pins: teeth for those in use, towards the threads; pegs at the back for the free ones. */
export function Comb({ model, layout, palette, lit, target, fits }: Props) {
  const { comb, teeth } = layout;
  const width = COMB_WIDTH - SPINE;
  return (
    <g>
      <rect
        x={comb.x + COMB_WIDTH - SPINE}
        y={comb.y}
        width={SPINE}
        height={comb.height}
        rx={9}
        fill={palette.ink}
        opacity={0.85}
      />
      {model.pins.map(({ name, isUsed }) => {
        const at = teeth.get(name);
        if (!at) return null;
        const isTarget = target === name;
        const isUnfit = fits !== null && !fits(name);
        const x = isUsed ? at.x : at.x - 1;
        const wide = isUsed ? width + 6 : PEG_WIDTH - 2;
        const high = isUsed ? 17 : 12.5;
        return (
          <g
            key={name}
            data-place={name}
            className="loom-tooth"
            opacity={isUnfit ? 0.3 : lit === null || lit.has(name) ? 1 : 0.3}
          >
            <rect
              x={x}
              y={at.y - high / 2}
              width={wide}
              height={high}
              rx={isUsed ? 4 : 3}
              fill={isTarget ? palette.accent : isUsed || (fits && !isUnfit) ? palette.sheet : palette.ground}
              stroke={isTarget || (fits && !isUnfit) ? palette.accent : isUsed ? palette.ink : palette.line}
              strokeWidth={isTarget ? 3 : 1.2}
            />
            <text
              x={x + (isUsed ? width + 2 : wide) / 2}
              y={at.y + 4.3}
              textAnchor="middle"
              fontSize={isUsed ? 14 : 12.4}
              fontWeight={isUsed ? 700 : 500}
              fill={isTarget ? palette.ground : isUsed ? palette.ink : palette.quiet}
            >
              {name}
            </text>
            <title>{isUnfit ? `${name} cannot do what this lead asks` : isUsed ? name : `${name}, free`}</title>
          </g>
        );
      })}
    </g>
  );
}
