import type { Schemas } from "../../api/client";
import { readsIn, saidIn } from "../../units/shown";
import { grouped, useUnits } from "../../units/units";

type Curve = NonNullable<Schemas["SuggestionOut"]["curve"]>;

const WIDTH = 320;
const HEIGHT = 132;
const LEFT = 44;
const BOTTOM = 30;

/** How one figure goes with another, and where the one in hand lies on it. */
export function CurvePlot({ curve }: { curve: Curve }) {
  const units = useUnits();
  const [xs, ys] = [readsIn(units, curve.x_quantity.shown), readsIn(units, curve.y_quantity.shown)];
  const xMost = Math.max(...curve.x, curve.at_x);
  const yMost = Math.max(...curve.y, curve.at_y, 1e-9);
  const x = (value: number) => LEFT + (value / xMost) * (WIDTH - LEFT - 10);
  const y = (value: number) => 8 + (1 - value / yMost) * (HEIGHT - BOTTOM - 8);
  const path = curve.x.map((at, n) => `${n ? "L" : "M"}${x(at).toFixed(1)} ${y(curve.y[n] ?? 0).toFixed(1)}`).join("");
  const [atX, atY] = [x(curve.at_x), y(curve.at_y)];
  const said = `${curve.x_label} ${saidIn(xs, curve.at_x, 2)}: ${curve.y_label} ${saidIn(ys, curve.at_y)}`;
  return (
    <figure className="curve-plot">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden="true">
        <path className="curve-under" d={`${path}L${x(xMost)} ${y(0)}L${x(0)} ${y(0)}z`} />
        <line x1={LEFT} x2={WIDTH - 10} y1={y(0)} y2={y(0)} />
        <line x1={LEFT} x2={LEFT} y1={8} y2={y(0)} />
        <path className="curve-line" d={path} />
        <path className="curve-at" d={`M${atX} ${y(0)}V${atY}H${LEFT}`} />
        <circle cx={atX} cy={atY} r={5} />
        <text x={LEFT - 6} y={14} textAnchor="end">
          {grouped(ys.fromSi(yMost), 1)}
        </text>
        <text x={LEFT - 6} y={y(0)} textAnchor="end">
          0
        </text>
        <text x={WIDTH - 10} y={HEIGHT - 14} textAnchor="end">
          {grouped(xs.fromSi(xMost), 1)} {xs.unit}
        </text>
        <text x={LEFT} y={HEIGHT - 14}>
          {curve.x_label}
        </text>
        <text x={LEFT + 6} y={16}>
          {curve.y_label}, {ys.unit}
        </text>
      </svg>
      <figcaption>{said}</figcaption>
    </figure>
  );
}
