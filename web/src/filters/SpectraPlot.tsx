import { readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import { swatch } from "./lines";
import type { Comparison } from "./queries";

const WIDTH = 620;
const HEIGHT = 150;
const LEFT = 8;
const BOTTOM = 20;
const DECADES = 5;

/** What each leaves of every frequency: before and after, on a height of five decades. */
export function SpectraPlot({ told, shown }: { told: Comparison; shown: boolean[] }) {
  const units = useUnits();
  const reads = readsIn(units, told.quantity.small);
  const rows = told.rows.filter((row) => row.hz.length > 2);
  if (rows.length === 0) return null;
  const last = Math.max(...rows.map((row) => row.hz.at(-1) ?? 0));
  const top = Math.max(...rows.flatMap((row) => row.density.slice(1)));
  if (!(top > 0) || !(last > 0)) return null;
  const x = (hz: number) => LEFT + (hz / last) * (WIDTH - 2 * LEFT);
  const y = (density: number) =>
    Math.min(1, (Math.log10(top) - Math.log10(Math.max(density, top * 1e-9))) / DECADES) * (HEIGHT - BOTTOM);
  return (
    <figure className="spectra">
      <figcaption>What is left at every frequency</figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Spectrum before and after">
        <line className="allan-grid" x1={LEFT} x2={WIDTH - LEFT} y1={HEIGHT - BOTTOM} y2={HEIGHT - BOTTOM} />
        {told.rows.map((row, place) =>
          shown[place] === false ? null : (
            <polyline
              key={`${row.words} ${place}`}
              style={{ stroke: swatch(place).borderTop.split(" ").at(-1) }}
              className={place === 0 ? "is-raw" : ""}
              points={row.hz
                .slice(1)
                .map((hz, n) => `${x(hz).toFixed(1)},${y(row.density[n + 1] ?? 0).toFixed(1)}`)
                .join(" ")}
            />
          ),
        )}
        <text x={LEFT} y={HEIGHT - 5}>
          0 Hz
        </text>
        <text x={WIDTH - LEFT} y={HEIGHT - 5} textAnchor="end">
          {grouped(last, last < 10 ? 1 : 0)} Hz
        </text>
      </svg>
      <p className="quiet">
        Top: {grouped(reads.step(top), 3)} {reads.unit}/√Hz; each step down of a fifth is ten times less.
      </p>
    </figure>
  );
}
