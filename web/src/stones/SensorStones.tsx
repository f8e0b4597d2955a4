import type { Stone } from "../api/queries";
import { StoneMark } from "./StoneMark";

/** The stones of one sensor in a row, small, beside its name. */
export function SensorStones({ stones }: { stones: Stone[] }) {
  return (
    <span className="sensor-stones">
      {stones
        .filter((stone) => stone.state !== "absent")
        .map((stone) => (
          <StoneMark key={stone.stage} state={stone.state} size={15} />
        ))}
    </span>
  );
}
