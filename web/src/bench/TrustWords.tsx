import type { AirHeard } from "../api/queries";
import { quantityText, useUnits } from "../units/units";
import { type Trust, trustWords } from "./trust";

interface Props {
  trust: Trust | null;
  /** What the rig's own thermometer says, where it disagrees with what is typed. */
  air: AirHeard | null;
  className?: string;
}

/** What stands against a number, wherever it is read. */
export function TrustWords({ trust, air, className = "" }: Props) {
  const units = useUnits();
  const words = trustWords(trust);
  return (
    <>
      {words && (
        <span className={`trust-words ${className}`} title={trust?.reason}>
          {words}
        </span>
      )}
      {air && (
        <span
          className={`trust-words ${className}`}
          title={`${quantityText(units, "temperature", air.typed_c, 1)} is typed.`}
        >
          air {quantityText(units, "temperature", air.heard_c, 0)} on the line
        </span>
      )}
    </>
  );
}
