import { readsIn, saidIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import type { Study } from "./queries";

const WIDTH = 560;
const HEIGHT = 190;
const LEFT = 52;
const BOTTOM = 34;
const TOP = 14;

/** What a study says: in a sentence, as curves, and as a table. */
export function StudyResult({ study }: { study: Study }) {
  const units = useUnits();
  const reads = readsIn(units, study.varies.shown);
  return (
    <section className="in-a-sheet study-result" aria-label="What it says">
      <p className="study-says">{study.says}</p>
      {study.cost && <p>{study.cost}</p>}
      {study.rows.length > 1 && (
        <div className="heap-scroll">
          <Curves study={study} said={(level) => saidIn(reads, level)} />
        </div>
      )}
      {study.rows.length > 0 && (
        <table className="mark-table">
          <thead>
            <tr>
              <th scope="col">{study.varies.name}</th>
              <th scope="col" className="figure">
                d′, worst
              </th>
              <th scope="col" className="figure">
                misread, if normal
              </th>
              <th scope="col" className="figure">
                of the room
              </th>
              <th scope="col">d′ of each</th>
            </tr>
          </thead>
          <tbody>
            {study.rows.map((row) => (
              <tr key={row.level} className={row.level === study.best ? "is-in-hand" : ""}>
                <th scope="row">
                  {saidIn(reads, row.level)} {row.level === study.best && <span className="quiet">best</span>}
                </th>
                <td className="figure">{grouped(Math.min(row.d_prime, 9999), 0)}</td>
                <td className="figure">{row.misread < 1e-9 ? "next to never" : `${percent(row.misread)} %`}</td>
                <td className="figure">{row.room_share === null ? "–" : `${percent(row.room_share)} %`}</td>
                <td>
                  {row.per_lane.map((one) => (one === 0 ? "merged" : grouped(Math.min(one, 9999), 0))).join(", ")}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {study.findings.map((one) => (
        <p key={one.title} className={one.severity === "note" ? "quiet" : "bench-note warning"}>
          <b>{one.title}</b> {one.why} {one.remedy}
        </p>
      ))}
    </section>
  );
}

const percent = (share: number) => String(Number((100 * share).toPrecision(2)));

/** How far black and white stand apart over the level, and beside it how much of the light is the room’s. */
function Curves({ study, said }: { study: Study; said: (level: number) => string }) {
  const { rows } = study;
  const levels = rows.map((row) => row.level);
  const [low, high] = [Math.min(...levels), Math.max(...levels)];
  const most = Math.max(...rows.map((row) => row.d_prime));
  const x = (level: number) => LEFT + ((level - low) / (high - low || 1)) * (WIDTH - LEFT - 60);
  const y = (share: number) => TOP + (1 - share) * (HEIGHT - TOP);
  const path = (points: [number, number][]) =>
    points.map(([a, b], n) => `${n === 0 ? "M" : "L"} ${a.toFixed(1)} ${b.toFixed(1)}`).join(" ");
  const room = rows.filter((row) => row.room_share !== null);
  return (
    <svg
      className="study-curves"
      viewBox={`0 0 ${WIDTH} ${HEIGHT + BOTTOM}`}
      role="img"
      aria-label={`How far black and white stand apart, best at ${study.best === null ? "none" : said(study.best)}`}
    >
      {study.flat_from !== null && study.flat_to !== null && (
        <rect
          className="study-flat"
          x={x(study.flat_from) - 6}
          width={x(study.flat_to) - x(study.flat_from) + 12}
          y={TOP}
          height={HEIGHT - TOP}
        />
      )}
      {[0, 0.5, 1].map((share) => (
        <g key={share}>
          <line x1={LEFT} x2={WIDTH - 54} y1={y(share)} y2={y(share)} className="heap-grid" />
          <text x={LEFT - 6} y={y(share) + 4} textAnchor="end" className="heap-tick">
            {grouped(share * Math.min(most, 9999), 0)}
          </text>
          {room.length > 0 && (
            <text x={WIDTH - 48} y={y(share) + 4} className="heap-tick">
              {100 * share} %
            </text>
          )}
        </g>
      ))}
      {rows.map((row) => (
        <text key={row.level} x={x(row.level)} y={HEIGHT + 16} textAnchor="middle" className="heap-tick">
          {said(row.level)}
        </text>
      ))}
      <path className="study-line" d={path(rows.map((row) => [x(row.level), y(row.d_prime / most)]))} />
      {rows.map((row) => (
        <circle
          key={row.level}
          className={row.level === study.best ? "study-best" : "study-dot"}
          cx={x(row.level)}
          cy={y(row.d_prime / most)}
          r={row.level === study.best ? 6 : 4}
        />
      ))}
      {room.length > 1 && (
        <path className="study-room" d={path(room.map((row) => [x(row.level), y(row.room_share ?? 0)]))} />
      )}
      <text x={LEFT} y={HEIGHT + 31} className="heap-under">
        ━ d′ of the worst sensor{room.length > 0 ? "   ┅ room’s share of the light (right)" : ""}
      </text>
    </svg>
  );
}
