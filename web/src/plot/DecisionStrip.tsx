import type { OutputSeen } from "../api/queries";

interface Props {
  decision: OutputSeen;
  /** Where the plot's own area lies, px, and the time it shows, s. */
  box: { left: number; width: number; from: number; to: number };
}

interface Span {
  from_s: number;
  to_s: number;
  state: string;
  lane: number;
}

/** In the order they are drawn: a brief alarm is not hidden by what comes after it. */
const LOOKS = ["calm", "alarm", "worst"];
const HEIGHT = 22;
/** Of each of several lanes. */
const THIN = 14;

/** What is decided, under the time it is: a block is alarm, hatching the worst of it; a row for each lane. */
export function DecisionStrip(props: Props) {
  const { decision } = props;
  if (decision.quantity.lanes.length < 2) return <OneStrip {...props} />;
  return <LaneStrips {...props} />;
}

/** Two states a lane: the second of them is a block. */
function LaneStrips({ decision, box }: Props) {
  const x = xIn(box);
  const { lanes, states } = decision.quantity;
  const second = states[1]?.name ?? "";
  const on = (lane: number) => spans(decision, (span) => span.lane === lane && span.state === second);
  return (
    <svg
      className="decision-strip"
      role="img"
      aria-label={`${decision.label} over time, ${lanes.length} lanes`}
      width={box.left + box.width}
      height={THIN * lanes.length + 4}
    >
      {lanes.map((name, lane) => (
        <g key={name} transform={`translate(0 ${THIN * lane})`}>
          <text x={box.left - 8} y={11} textAnchor="end">
            {lane === 0 ? `${second} ${name}` : name}
          </text>
          <line x1={box.left} x2={box.left + box.width} y1={THIN / 2 + 1} y2={THIN / 2 + 1} className="strip-rail" />
          <path d={blocks(on(lane), x, box.left, 2, THIN - 4)} className="strip-lane" />
        </g>
      ))}
    </svg>
  );
}

/** Those stretches that are wanted. */
function spans({ states }: OutputSeen, isWanted: (span: Span) => boolean): Span[] {
  const found: Span[] = [];
  states.state.forEach((state, n) => {
    const span = { from_s: states.from_s[n] ?? 0, to_s: states.to_s[n] ?? 0, state, lane: states.lane[n] ?? 0 };
    if (isWanted(span)) found.push(span);
  });
  return found;
}

/** Stretches as one shape: they come by the thousand, and are drawn anew while a hand moves. */
function blocks(spans: Span[], x: (t: number) => number, left: number, top: number, height: number): string {
  return spans
    .map(({ from_s, to_s }) => {
      const from = x(from_s);
      const width = Math.max(1, x(to_s) - from);
      return `M${(left + from).toFixed(1)} ${top}h${width.toFixed(1)}v${height}h${(-width).toFixed(1)}z`;
    })
    .join("");
}

const xIn = (box: Props["box"]) => (t: number) =>
  ((Math.min(Math.max(t, box.from), box.to) - box.from) / (box.to - box.from)) * box.width;

function OneStrip({ decision, box }: Props) {
  const x = xIn(box);
  const { states } = decision.quantity;
  const word = (name: string) => states.find((one) => one.name === name)?.word ?? name;
  const look = (name: string) => states.find((one) => one.name === name)?.look ?? "calm";
  const alarm = states.find((one) => one.look === "alarm")?.name ?? "alarm";
  const alarms = spans(decision, (span) => look(span.state) !== "calm").length;
  return (
    <svg
      className="decision-strip"
      role="img"
      aria-label={`Decision over time: ${alarms} ${alarms === 1 ? "stretch" : "stretches"} of ${alarm}`}
      width={box.left + box.width}
      height={HEIGHT}
    >
      <defs>
        <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" className="strip-worst-ground" />
          <line x1="0" y1="0" x2="0" y2="6" className="strip-worst-line" />
        </pattern>
      </defs>
      <text x={box.left - 8} y={15} textAnchor="end">
        {decision.label.toLowerCase()}
      </text>
      {LOOKS.map((how) => {
        const tall = how !== "calm";
        const those = spans(decision, (span) => look(span.state) === how);
        return (
          <g key={how}>
            <path
              d={blocks(those, x, box.left, tall ? 2 : 15, tall ? HEIGHT - 4 : 4)}
              className={`strip-${how}`}
              fill={how === "worst" ? "url(#hatch)" : undefined}
            />
            {those
              .filter((span) => x(span.to_s) - x(span.from_s) > 44)
              .map((span) => (
                <text
                  key={span.from_s}
                  x={box.left + x(span.from_s) + 6}
                  y={tall ? 16 : 12}
                  className={`strip-word word-on-${how}`}
                >
                  {word(span.state)}
                </text>
              ))}
          </g>
        );
      })}
    </svg>
  );
}
