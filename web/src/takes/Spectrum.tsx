import { figures, frequency } from "./words";

const WIDTH = 300;
const HEIGHT = 92;
const DECADES = 4;

interface Props {
  hz: number[];
  density: number[];
  unit: string;
  note: string;
}

/** What a stretch shakes with, on a logarithmic height of four decades. */
export function Spectrum({ hz, density, unit, note }: Props) {
  const top = Math.max(...density);
  const peak = density.indexOf(top);
  const last = hz.at(-1) ?? 1;
  const x = (f: number) => (f / last) * WIDTH;
  const y = (d: number) =>
    Math.min(HEIGHT, ((Math.log10(top || 1) - Math.log10(Math.max(d, top * 1e-9 || 1e-30))) / DECADES) * HEIGHT);
  const path = hz.map((f, n) => `${n ? "L" : "M"}${x(f).toFixed(1)},${y(density[n] ?? 0).toFixed(1)}`).join("");
  return (
    <figure className="small-figure">
      <figcaption>
        What it shakes with: strongest at <b>{frequency(hz[peak] ?? null)}</b>
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Spectrum up to ${frequency(last)}, strongest at ${frequency(hz[peak] ?? null)}`}
      >
        <line className="peak" x1={x(hz[peak] ?? 0)} x2={x(hz[peak] ?? 0)} y1="0" y2={HEIGHT} />
        <path className="trace" d={path} />
      </svg>
      <p className="small-axis">
        <span>0</span>
        <span>
          top {figures(top)} {unit}
        </span>
        <span>{frequency(last)}</span>
      </p>
      <p className="quiet">{note}.</p>
    </figure>
  );
}
