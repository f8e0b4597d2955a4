import type { Schemas } from "../../api/client";
import { readsIn } from "../../units/shown";
import { grouped, useUnits } from "../../units/units";

const WIDTH = 640;
const HEIGHT = 230;
const LEFT = 64;
const RIGHT = 34;
const TOP = 12;
const BOTTOM = 40;

/** How much of the noise is left after averaging for so long, axis by axis, both on scales of tens. */
export function AllanPlot({ points, reads }: { points: number[][]; reads: Schemas["QuantityOut"] }) {
  const units = useUnits();
  const shown = readsIn(units, reads.small);
  const rows = points.filter((row) => row.slice(1).every((one) => one > 0));
  if (rows.length < 3) return null;
  const tau = rows.map((row) => row[0] ?? 0);
  const all = rows.flatMap((row) => row.slice(1).map((one) => shown.fromSi(one)));
  const [t0, t1] = [Math.log10(Math.min(...tau)), Math.log10(Math.max(...tau))];
  const [y0, y1] = [Math.floor(Math.log10(Math.min(...all))), Math.ceil(Math.log10(Math.max(...all)))];
  const x = (s: number) => LEFT + ((Math.log10(s) - t0) / (t1 - t0)) * (WIDTH - LEFT - RIGHT);
  const y = (v: number) => HEIGHT - BOTTOM - ((Math.log10(v) - y0) / (y1 - y0)) * (HEIGHT - TOP - BOTTOM);
  const decades = (from: number, to: number) =>
    Array.from({ length: Math.floor(to) - Math.ceil(from) + 1 }, (_, n) => 10 ** (Math.ceil(from) + n));
  return (
    <figure className="allan">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Noise left after averaging">
        {decades(t0, t1).map((s) => (
          <g key={s}>
            <line className="allan-grid" x1={x(s)} x2={x(s)} y1={TOP} y2={HEIGHT - BOTTOM} />
            <text x={x(s)} y={HEIGHT - BOTTOM + 16} textAnchor="middle">
              {said(s)} s
            </text>
          </g>
        ))}
        {decades(y0, y1).map((v) => (
          <g key={v}>
            <line className="allan-grid" x1={LEFT} x2={WIDTH - RIGHT} y1={y(v)} y2={y(v)} />
            <text x={LEFT - 6} y={y(v) + 4} textAnchor="end">
              {said(v)}
            </text>
          </g>
        ))}
        {reads.lanes.map((lane, place) => (
          <g key={lane} className={`allan-lane lane-${place + 1}`}>
            <polyline
              points={rows.map((row) => `${x(row[0] ?? 1)},${y(shown.fromSi(row[place + 1] ?? 1))}`).join(" ")}
            />
            <text x={x(10 ** t1) + 6} y={y(shown.fromSi(rows.at(-1)?.[place + 1] ?? 1)) + 4 + 13 * (place - 1)}>
              {lane}
            </text>
          </g>
        ))}
        <text x={(LEFT + WIDTH - RIGHT) / 2} y={HEIGHT - 4} textAnchor="middle" className="allan-axis">
          averaged for
        </text>
      </svg>
      <figcaption className="quiet">
        Allan deviation in {shown.unit}: what two means, each over so long and one after the other, differ by. While it
        falls, a longer rest is worth it; where it is flat, it is not. Its last points rest on few means, and say
        little.
      </figcaption>
    </figure>
  );
}

const said = (value: number) => (value >= 1 ? grouped(value, 0) : String(Number(value.toPrecision(1))));
