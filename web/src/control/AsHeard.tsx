import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { useNotices } from "../shell/Notices";
import { useRulesBench } from "../rules/queries";
import type { ControlBench, Values } from "./queries";
import { hearing } from "./tried";

interface Props {
  rigId: number;
  bench: ControlBench;
  /** The unit that the plant is measured in: only outputs in it are offered. */
  unit: string;
  onTake: (inputs: Values) => void;
}

/** How often, how noisily and how often not a sensor delivers, as it was recorded. */
export function AsHeard({ rigId, bench, unit, onTake }: Props) {
  const [chosen, setChosen] = useState("");
  const rules = useRulesBench(rigId);
  const notices = useNotices();
  const offered = hearing(rules.data?.offered ?? [], unit).filter((one) => one.is_set);
  const choices = bench.takes.flatMap((take) =>
    offered
      .filter((one) => take.sensors.includes(one.sensor_id))
      .map((one) => ({
        key: `${take.id} ${one.sensor_id} ${one.output.name}`,
        label: `${one.sensor}, ${one.output.label.toLowerCase()}: ${take.name}`,
      })),
  );
  if (choices.length === 0) return null;
  async function take() {
    const [takeId = "", sensorId = "", output = ""] = chosen.split(" ");
    try {
      const heard = await body(
        client.POST("/api/rigs/{rig_id}/control/heard", {
          params: { path: { rig_id: rigId } },
          body: { take_id: Number(takeId), sensor_id: Number(sensorId), output },
        }),
      );
      onTake({
        sample_s: heard.sample_s,
        zeros: heard.zeros,
        ...(heard.noise_u === null ? {} : { noise_u: heard.noise_u }),
      });
    } catch (error) {
      notices.failed(error);
    }
  }
  return (
    <div className="as-heard">
      <select
        className="form-select form-select-sm"
        aria-label="As a sensor was recorded"
        value={chosen}
        onChange={(event) => setChosen(event.target.value)}
      >
        <option value="">as a sensor delivered…</option>
        {choices.map((one) => (
          <option key={one.key} value={one.key}>
            {one.label}
          </option>
        ))}
      </select>
      <Button size="sm" variant="outline-primary" disabled={chosen === ""} onClick={() => void take()}>
        Take its rate, noise and gaps
      </Button>
    </div>
  );
}
