import { Link } from "react-router";
import type { Rig, Stone } from "../api/queries";
import { STATE_WORDS, StoneMark } from "./StoneMark";
import { STAGES } from "./stages";

type Cell = [Stone, ...Stone[]];

/** Stones as cells; those that have no bench yet share one, which says what to do meanwhile. */
function cellsOf(stones: Stone[]): Cell[] {
  const cells: Cell[] = [];
  for (const stone of stones) {
    const before = cells.at(-1);
    if (stone.state === "absent" && !["wired", "driven"].includes(stone.stage) && before?.[0].state === "absent")
      before.push(stone);
    else cells.push([stone]);
  }
  return cells;
}

function said(stone: Stone): string {
  return `${stone.stage}: ${stone.short}; ${STATE_WORDS[stone.state]}. ${stone.reason}`;
}

/** A row per sensor, a column per stage of the work. */
export function StoneTable({ rig }: { rig: Rig }) {
  return (
    <div className="stone-table-frame">
      <table className="stone-table">
        <thead>
          <tr>
            <th scope="col">Sensor</th>
            {STAGES.map(({ stage, name }) => (
              <th scope="col" key={stage}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rig.sensors.map((sensor) => (
            <tr key={sensor.id}>
              <th scope="row">
                <Link to={`/sensors/${sensor.id}/${sensor.has_chain ? "heard" : "wired"}`}>{sensor.name}</Link>
                <span className="quiet">
                  {sensor.family_label}
                  {sensor.pins && <> · {sensor.pins}</>}
                </span>
              </th>
              {cellsOf(sensor.stones).map(([stone, ...more]) =>
                stone.state === "absent" ? (
                  <td key={stone.stage} colSpan={1 + more.length}>
                    <span className="stone-cell" title={stone.reason}>
                      <StoneMark state="absent" />
                      <span className="quiet">
                        {stone.stage === "driven" || stone.stage === "wired"
                          ? stone.short
                          : `no bench for it yet: ${[stone, ...more].map((one) => one.short).join(", ")}`}
                      </span>
                    </span>
                  </td>
                ) : (
                  <td
                    key={stone.stage}
                    className={rig.next?.sensor_id === sensor.id && rig.next.stage === stone.stage ? "is-next" : ""}
                  >
                    <Link
                      className={`stone-cell short-${stone.state}`}
                      to={`/sensors/${sensor.id}/${stone.stage}`}
                      title={stone.reason}
                      aria-label={`${sensor.name}, ${said(stone)}`}
                    >
                      <StoneMark state={stone.state} />
                      <span>{stone.short}</span>
                    </Link>
                  </td>
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
