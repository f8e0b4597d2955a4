import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import { useRefresh } from "../../api/queries";
import { AirEffect } from "../../air/AirEffect";
import { useDeed } from "../../shell/useDeed";
import { useKey } from "../../shell/keys";
import { BenchPlot } from "../BenchPlot";
import { Digests } from "../Digests";
import { HeldAgainst } from "../HeldAgainst";
import { RecordingHead } from "../RecordingHead";
import type { BenchProps } from "../types";
import { BadLines } from "./BadLines";
import { BringInLog } from "./BringInLog";
import { FromZero } from "./FromZero";

/** Bring recordings in and look at them. */
export function ListenBench(props: BenchProps) {
  const { sensor, recording, onRecording } = props;
  const [importing, setImporting] = useState(false);
  const [zeroing, setZeroing] = useState(false);
  const fromZero = props.bench.outputs.find((one) => one.is_from_zero);
  const deed = useDeed();
  const refresh = useRefresh();
  const open = importing || !recording;
  useKey("i", () => setImporting(true));

  async function remove() {
    if (!recording) return;
    const params = { path: { recording_id: recording.id } };
    await deed(
      () => body(client.DELETE("/api/recordings/{recording_id}", { params })),
      `“${recording.name}” is removed.`,
      () => body(client.POST("/api/recordings/{recording_id}/restore", { params })),
    );
  }

  return (
    <>
      {open && (
        <BringInLog
          sensor={sensor}
          bench={props.bench}
          onClose={recording ? () => setImporting(false) : null}
          onDone={(id) => {
            setImporting(false);
            void refresh();
            onRecording(id);
          }}
        />
      )}
      {!open && (
        <RecordingHead {...props}>
          <span className="head-actions">
            <Link className="btn btn-sm btn-primary" to={`/rigs/${sensor.rig_id}/line?sensor=${sensor.id}`}>
              Listen live <kbd>L</kbd>
            </Link>
            <Button size="sm" variant="outline-primary" onClick={() => setImporting(true)}>
              Bring in a log <kbd>I</kbd>
            </Button>
            {fromZero && (
              <Button size="sm" variant="outline-primary" onClick={() => setZeroing(true)}>
                {fromZero.label} …
              </Button>
            )}
            <Link
              className="btn btn-sm btn-outline-primary"
              to={`/sensors/${sensor.id}/filters?recording=${recording.id}&output=${props.seen?.name ?? ""}`}
            >
              Filters
            </Link>
            <Button size="sm" variant="outline-primary" onClick={() => void remove()}>
              Remove
            </Button>
          </span>
        </RecordingHead>
      )}
      {zeroing && fromZero && <FromZero sensor={sensor} output={fromZero} onHide={() => setZeroing(false)} />}
      {!open && <BenchPlot {...props} height={330} />}
      {!open && sensor.tells_air && <AirEffect sensor={sensor} recordingId={recording.id} />}
      {!open && <Digests {...props} />}
      {!open && <HeldAgainst {...props} />}
      {!open && recording.bad_lines > 0 && <BadLines key={recording.id} recording={recording} />}
    </>
  );
}
