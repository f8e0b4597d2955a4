import { grouped } from "../units/units";
import { figures } from "./words";

const WIDTH = 300;
const HEIGHT = 92;

/** How often each value came. */
export function Bars({ edges, counts, unit }: { edges: number[]; counts: number[]; unit: string }) {
  const most = Math.max(...counts, 1);
  const low = edges[0] ?? 0;
  const high = edges.at(-1) ?? 1;
  const x = (value: number) => ((value - low) / (high - low || 1)) * WIDTH;
  return (
    <figure className="small-figure">
      <figcaption>How often each value came</figcaption>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Histogram from ${figures(low)} to ${figures(high)} ${unit}, at most ${grouped(most, 0)} a bar`}
      >
        {counts.map((count, n) => {
          const left = x(edges[n] ?? 0);
          const height = (count / most) * (HEIGHT - 4);
          return (
            <rect
              key={n}
              className="bar"
              x={left + 0.5}
              y={HEIGHT - height}
              width={Math.max(0.8, x(edges[n + 1] ?? 0) - left - 1)}
              height={height}
            >
              <title>
                {figures(edges[n] ?? 0)} to {figures(edges[n + 1] ?? 0)} {unit}: {grouped(count, 0)}
              </title>
            </rect>
          );
        })}
      </svg>
      <p className="small-axis">
        <span>{figures(low)}</span>
        <span>
          {figures(high)} {unit}
        </span>
      </p>
    </figure>
  );
}
