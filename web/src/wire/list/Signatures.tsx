import { dayAndTime } from "../../units/dates";
import type { Wiring } from "../queries";

/** Whose word the wiring rests on, since when, and for which devices when not for all. */
export function Signatures({ wiring }: { wiring: Wiring }) {
  return (
    <ul className="signatures">
      {wiring.signatures.map((one) => (
        <li key={`${one.note} ${one.at}`}>
          {one.note || "noted as right"}, {dayAndTime(one.at)}
          {one.devices.length < wiring.devices.length && `: ${one.devices.join(", ")}`}
        </li>
      ))}
    </ul>
  );
}
