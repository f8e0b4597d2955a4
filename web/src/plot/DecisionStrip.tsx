import type { View } from "../api/queries";

interface Props {
  decisions: View["decisions"];
  /** Where the plot's own area lies, px, and the time it shows, s. */
  box: { left: number; width: number; from: number; to: number };
}

const HEIGHT = 22;

/** What the rig would do, under the time it would do it: a block is stop, hatching is blind. */
export function DecisionStrip({ decisions, box }: Props) {
  const x = (t: number) => ((Math.min(Math.max(t, box.from), box.to) - box.from) / (box.to - box.from)) * box.width;
  const stops = decisions.filter((span) => span.decision !== "clear").length;
  return (
    <svg
      className="decision-strip"
      role="img"
      aria-label={`Decision over time: ${stops} ${stops === 1 ? "stretch" : "stretches"} of stop`}
      width={box.left + box.width}
      height={HEIGHT}
    >
      <defs>
        <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" className="strip-blind-ground" />
          <line x1="0" y1="0" x2="0" y2="6" className="strip-blind-line" />
        </pattern>
      </defs>
      <text x={box.left - 8} y={15} textAnchor="end">
        drive
      </text>
      <g transform={`translate(${box.left} 0)`}>
        {decisions.map((span) => {
          const from = x(span.from_s);
          const width = Math.max(1, x(span.to_s) - from);
          const tall = span.decision !== "clear";
          return (
            <g key={span.from_s}>
              <rect
                x={from}
                y={tall ? 2 : 15}
                width={width}
                height={tall ? HEIGHT - 4 : 4}
                className={`strip-${span.decision}`}
                fill={span.decision === "blind" ? "url(#hatch)" : undefined}
              />
              {width > 44 && (
                <text x={from + 6} y={tall ? 16 : 12} className={`strip-word word-on-${span.decision}`}>
                  {span.decision}
                </text>
              )}
            </g>
          );
        })}
      </g>
    </svg>
  );
}
