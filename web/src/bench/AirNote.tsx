import Button from "react-bootstrap/Button";
import type { AirHeard } from "../api/queries";
import { useDeed } from "../shell/useDeed";
import { quantityText, useUnits } from "../units/units";

interface Props {
  air: AirHeard | null;
  /** Note this temperature as that of the air. */
  use: (celsius: number) => Promise<unknown>;
}

/** The thermometer against what is typed, and the way to take it over. */
export function AirNote({ air, use }: Props) {
  const units = useUnits();
  const deed = useDeed();
  if (!air) return null;
  const heard = quantityText(units, "temperature", air.heard_c, 1);
  return (
    <p className="bench-note warning air-note">
      Air {heard} on the line, {quantityText(units, "temperature", air.typed_c, 1)} typed.
      <Button
        size="sm"
        variant="outline-primary"
        onClick={() =>
          void deed(
            () => use(Math.round(air.heard_c * 10) / 10),
            `The air is noted as ${heard}.`,
            () => use(air.typed_c),
          )
        }
      >
        Use {heard}
      </Button>
    </p>
  );
}
