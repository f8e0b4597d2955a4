import { readsIn, saidIn } from "../../units/shown";
import { useUnits } from "../../units/units";
import type { PictureProps } from "./props";

const HEIGHT = 104;
const PANEL = 230;
const HALF = 86;
const GROUND_Y = 56;
const ENDS_Y = 78;
const STEEPEST = 22;
const WIDEST = 18;

/** The deck from behind and from the side, as it leans, with the wedge of its ±. */
export function LevelPicture({ steps }: PictureProps) {
  const units = useUnits();
  const step = steps.find((one) => one.stage === "attitude") ?? steps.find((one) => one.stage === "tilt");
  if (!step || step.others.length === 0) return null;
  const lanes = [step, ...step.others];
  const reads = readsIn(units, step.small);
  const [roll, pitch, heading] = lanes.map((lane) => ({
    degrees: lane.value === null ? null : (lane.value * 180) / Math.PI,
    spread: lane.u === null ? 0 : (2 * lane.u * 180) / Math.PI,
    said: lane.value === null ? lane.status_word : saidIn(reads, Math.abs(lane.value)),
  }));
  if (!roll || !pitch) return null;
  const moves = step.status !== "ok";
  const behind = side(roll.degrees, roll.said, "up on the left", "up on the right");
  const beside = side(pitch.degrees, pitch.said, "down at the nose", "up at the nose");
  return (
    <div
      className={`level-picture ${moves ? "is-moving" : ""}`}
      role="img"
      aria-label={`From behind: ${behind}. From the side: ${beside}.`}
    >
      <Deck
        title="from behind"
        degrees={roll.degrees}
        spread={roll.spread}
        says={behind}
        ends={["left", "right"]}
        turn={1}
      />
      <Deck
        title="from the left"
        degrees={pitch.degrees}
        spread={pitch.spread}
        says={beside}
        ends={["nose", "tail"]}
        turn={-1}
      />
      {heading && heading.degrees !== null && (
        <svg width={150} height={HEIGHT} viewBox={`-75 -44 150 ${HEIGHT}`} aria-hidden="true">
          <circle className="level-ground" r={30} />
          <path className="level-nose" d="M0 -26 L7 4 L0 -2 L-7 4 Z" transform={`rotate(${-heading.degrees})`} />
          <text y={52} textAnchor="middle" className="level-says">
            {side(heading.degrees, heading.said, "to the left", "to the right")}
          </text>
        </svg>
      )}
      {moves && <span className="level-moves">{step.status_word}</span>}
    </div>
  );
}

interface DeckProps {
  title: string;
  degrees: number | null;
  spread: number;
  says: string;
  ends: [string, string];
  /** Which way round an angle turns, seen so. */
  turn: 1 | -1;
}

/** A deck on its two wheels over the ground, leaning; steeper than can be drawn is drawn so far. */
function Deck({ title, degrees, spread, says, ends, turn }: DeckProps) {
  const middle = PANEL / 2;
  const drawn = degrees === null ? 0 : Math.max(-STEEPEST, Math.min(STEEPEST, degrees));
  const shown = Math.min(WIDEST, spread);
  const wedge = (by: number) => {
    const angle = (turn * (drawn + by) * Math.PI) / 180;
    return `${middle - HALF * Math.cos(angle)},${42 - HALF * Math.sin(angle)}`;
  };
  const opposite = (by: number) => {
    const angle = (turn * (drawn + by) * Math.PI) / 180;
    return `${middle + HALF * Math.cos(angle)},${42 + HALF * Math.sin(angle)}`;
  };
  return (
    <svg width={PANEL} height={HEIGHT} viewBox={`0 0 ${PANEL} ${HEIGHT}`} aria-hidden="true">
      <text x={0} y={12} className="level-title">
        {title}
      </text>
      <line className="level-ground" x1={12} x2={PANEL - 12} y1={GROUND_Y} y2={GROUND_Y} />
      {degrees !== null && (
        <>
          <polygon className="level-doubt" points={`${middle},42 ${wedge(-shown)} ${wedge(shown)}`} />
          <polygon className="level-doubt" points={`${middle},42 ${opposite(-shown)} ${opposite(shown)}`} />
          <g transform={`rotate(${turn * drawn} ${middle} 42)`}>
            <rect className="level-deck" x={middle - HALF} y={36} width={2 * HALF} height={7} rx={2} />
            <circle className="level-wheel" cx={middle - HALF + 16} cy={49} r={6} />
            <circle className="level-wheel" cx={middle + HALF - 16} cy={49} r={6} />
          </g>
        </>
      )}
      <text x={2} y={ENDS_Y} className="level-end">
        {ends[0]}
      </text>
      <text x={PANEL - 2} y={ENDS_Y} textAnchor="end" className="level-end">
        {ends[1]}
      </text>
      <text x={middle} y={HEIGHT - 8} textAnchor="middle" className="level-says">
        {says}
      </text>
    </svg>
  );
}

function side(degrees: number | null, said: string, above: string, below: string): string {
  if (degrees === null) return said;
  return Math.abs(degrees) < 0.05 ? "level" : `${said} ${degrees > 0 ? above : below}`;
}
