import type { Sensor } from "../../api/queries";
import { dayAndTime } from "../../units/dates";

/** What was noted of a stage, and when. */
export function SignTable({ sensor, stage }: { sensor: Sensor; stage: "wired" | "driven" }) {
  const signed = sensor.sign_offs.filter((one) => one.stage === stage);
  if (signed.length === 0) return null;
  return (
    <table className="sign-table">
      <thead>
        <tr>
          <th scope="col">when</th>
          <th scope="col">right?</th>
          <th scope="col">note</th>
        </tr>
      </thead>
      <tbody>
        {signed.map((one) => (
          <tr key={one.id}>
            <td>{dayAndTime(one.at)}</td>
            <td className={one.is_right ? "" : "is-bad"}>{one.is_right ? "yes" : "no"}</td>
            <td>
              {one.note || (one.run ? "" : "–")} {one.run && <span className="quiet">by {one.run}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
