import type { OutputSeen } from "../api/queries";

interface Props {
  decision: OutputSeen;
  /** Where the plot's own area lies, px, and the time it shows, s. */
  box: { left: number; width: number; from: number; to: number };
}

const HEIGHT = 22;

/** What the rig would do, under the time it would do it: a block is alarm, hatching the worst of it. */
export function DecisionStrip({ decision, box }: Props) {
  const x = (t: number) => ((Math.min(Math.max(t, box.from), box.to) - box.from) / (box.to - box.from)) * box.width;
  const { states } = decision.quantity;
  const look = (name: string) => states.find((one) => one.name === name)?.look ?? "calm";
  const alarm = states.find((one) => one.look === "alarm")?.name ?? "alarm";
  const spans = decision.states.filter((span) => look(span.state) !== "calm").length;
  return (
    <svg
      className="decision-strip"
      role="img"
      aria-label={`Decision over time: ${spans} ${spans === 1 ? "stretch" : "stretches"} of ${alarm}`}
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
      <g transform={`translate(${box.left} 0)`}>
        {decision.states.map((span) => {
          const from = x(span.from_s);
          const width = Math.max(1, x(span.to_s) - from);
          const how = look(span.state);
          const tall = how !== "calm";
          return (
            <g key={span.from_s}>
              <rect
                x={from}
                y={tall ? 2 : 15}
                width={width}
                height={tall ? HEIGHT - 4 : 4}
                className={`strip-${how}`}
                fill={how === "worst" ? "url(#hatch)" : undefined}
              />
              {width > 44 && (
                <text x={from + 6} y={tall ? 16 : 12} className={`strip-word word-on-${how}`}>
                  {span.state}
                </text>
              )}
            </g>
          );
        })}
      </g>
    </svg>
  );
}
