import type { Sensor } from "../../api/queries";
import { STATE_WORDS, StoneMark } from "../../stones/StoneMark";

interface Props {
  sensor: Sensor;
  chosen: string;
  onChoose: (kind: string) => void;
}

/** Every kind of calibration of a sensor: which are made, which are left, which are old. */
export function Schedule({ sensor, chosen, onChoose }: Props) {
  return (
    <div className="schedule" role="radiogroup" aria-label="Kind of calibration">
      {sensor.schedule.map((due) => (
        <button
          key={due.kind}
          type="button"
          role="radio"
          aria-checked={due.kind === chosen}
          title={due.says}
          onClick={() => onChoose(due.kind)}
        >
          <StoneMark state={due.state} size={20} />
          <span>
            <b>{due.label}</b>
            <span className={`due-${due.state}`}>
              <span className="visually-hidden">{STATE_WORDS[due.state]}: </span>
              {due.short}
            </span>
          </span>
        </button>
      ))}
    </div>
  );
}
