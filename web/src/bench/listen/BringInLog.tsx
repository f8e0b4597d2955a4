import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import Button from "react-bootstrap/Button";
import { Link, useNavigate } from "react-router";
import { body, client } from "../../api/client";
import type { Bench, Sensor } from "../../api/queries";
import { BringIn } from "../../files/BringIn";
import type { LogFile } from "../../files/columns";
import type { Sending } from "../../files/useSending";
import { Empty } from "../../shell/States";

interface Props {
  sensor: Sensor;
  bench: Bench;
  onClose: (() => void) | null;
  onDone: (recordingId: number) => void;
}

/** A log of one sensor, brought in on its bench. */
export function BringInLog({ sensor, bench, onClose, onDone }: Props) {
  const navigate = useNavigate();
  const done = useCallback(
    (file: LogFile) => {
      const recording = file.recordings[sensor.id];
      if (recording !== undefined) onDone(recording);
      else void navigate(`/rigs/${sensor.rig_id}/recordings/${file.take_id}`);
    },
    [navigate, onDone, sensor.id, sensor.rig_id],
  );
  return (
    <BringIn rigId={sensor.rig_id} air={sensor.rig_air} sensorId={sensor.id} onDone={done}>
      {(choose, sending) => (
        <Empty title={`Bring in a log of ${sensor.name}.`}>
          <p>
            Keep the lines that your board prints in a file, and drop it here: any log with numbers in it, CSV, JSON
            lines, Parquet, VCD or MCAP. You see how it is read before anything is kept.
          </p>
          <p className="empty-actions">
            <Button onClick={choose}>Choose a file</Button>
            <Link className="btn btn-outline-primary" to={`/rigs/${sensor.rig_id}/line?sensor=${sensor.id}`}>
              Listen live <kbd>L</kbd>
            </Link>
            {onClose && (
              <Button variant="outline-primary" onClick={onClose}>
                Cancel
              </Button>
            )}
          </p>
          <Examples kind={bench.kind} sending={sending} />
        </Empty>
      )}
    </BringIn>
  );
}

function Examples({ kind, sending }: { kind: string; sending: Sending }) {
  const examples = useQuery({ queryKey: ["examples"], queryFn: () => body(client.GET("/api/examples")) });

  async function take(name: string) {
    try {
      const answer = await fetch(`/api/examples/${name}`);
      await sending.send(new File([await answer.blob()], name));
    } catch (failure) {
      sending.setError(failure);
    }
  }

  return examples.data
    ?.filter((example) => example.kind === kind)
    .map((example) => (
      <p key={example.name} className="quiet">
        No hardware at hand?{" "}
        <button type="button" className="link" onClick={() => void take(example.name)}>
          Take the example {example.name}
        </button>
        . {example.description}
      </p>
    ));
}
