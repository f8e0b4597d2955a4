import { Link } from "react-router";
import type { Rig } from "../api/queries";
import { STATE_WORDS, StoneMark } from "./StoneMark";
import { STAGES } from "./stages";

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
              {sensor.stones.map((stone) => (
                <td key={stone.stage} className={rig.next?.sensor_id === sensor.id && rig.next.stage === stone.stage ? "is-next" : ""}>
                  {stone.state === "absent" ? (
                    <span className="stone-cell" title={stone.reason}>
                      <StoneMark state="absent" />
                      <span className="visually-hidden">{stone.reason}</span>
                    </span>
                  ) : (
                    <Link
                      className={`stone-cell short-${stone.state}`}
                      to={`/sensors/${sensor.id}/${stone.stage}`}
                      title={stone.reason}
                      aria-label={`${sensor.name}, ${stone.stage}: ${stone.short}; ${STATE_WORDS[stone.state]}. ${stone.reason}`}
                    >
                      <StoneMark state={stone.state} />
                      <span>{stone.short}</span>
                    </Link>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
