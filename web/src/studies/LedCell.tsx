import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Schemas, body, client, problemOf } from "../api/client";
import { type Sensor, useRefresh } from "../api/queries";
import { isHeard, useOpenLine } from "../line/queries";
import { useNotices } from "../shell/Notices";
import { useKey } from "../shell/keys";
import { QuantityInput } from "../units/QuantityInput";
import type { Study, StudyCell } from "./queries";

type CellIn = Schemas["CellIn"];

interface Props {
  sensor: Sensor;
  study: Study;
  cell: StudyCell;
  /** Whether it was taken before and is taken anew. */
  isAgain: boolean;
  onDone: () => void;
}

const WHILE_S = 6;

/** The one thing to do now, in letters that are read from the bench, and how it is taken. */
export function LedCell({ sensor, study, cell, isAgain, onDone }: Props) {
  const line = useOpenLine(sensor.rig_id, true);
  const [recordingId, setRecordingId] = useState(sensor.recordings[0]?.id ?? null);
  const [startS, setStartS] = useState<number | null>(0);
  const [endS, setEndS] = useState<number | null>(sensor.recordings[0]?.duration_s ?? null);
  const [problem, setProblem] = useState("");
  const [taking, setTaking] = useState(false);
  const refresh = useRefresh();
  const notices = useNotices();
  const isOpen = isHeard(line.data);
  const place = study.cells.indexOf(cell) + 1;

  async function take(where: CellIn) {
    setTaking(true);
    setProblem("");
    try {
      await body(
        client.PUT("/api/studies/{study_id}/cells/{key}", {
          params: { path: { study_id: study.id, key: cell.key } },
          body: where,
        }),
      );
      onDone();
      notices.done(`Taken: ${cell.says}.`);
      await refresh();
    } catch (error) {
      setProblem(problemOf(error).detail);
    } finally {
      setTaking(false);
    }
  }

  const takeLive = () => void take({ last_s: WHILE_S, start_s: 0, end_s: 0 });
  useKey("t", isOpen && !taking ? takeLive : null);

  return (
    <section className="led-cell no-print" aria-label="What to do now">
      <p className="quiet">
        {isAgain ? "again" : `${place} of ${study.cells.length}`} · {cell.says}
      </p>
      <p className="led-what">{cell.what}</p>
      {isOpen ? (
        <div className="panel-actions">
          <Button disabled={taking} onClick={takeLive}>
            Take the last {WHILE_S} s <kbd>T</kbd>
          </Button>
          <span className="quiet">
            Do it for {WHILE_S} seconds, then press. What does not do is refused, with the reason.
          </span>
        </div>
      ) : (
        <p className="quiet">No line to read from: open it to take cells live, or take a stretch of a recording.</p>
      )}
      <details className="more-fields" open={!isOpen}>
        <summary>from a recording</summary>
        <div className="fields">
          <Form.Group controlId="cell-recording" className="quantity wide">
            <Form.Label>Recording</Form.Label>
            <Form.Select
              size="sm"
              value={recordingId ?? ""}
              onChange={(event) => {
                const chosen = sensor.recordings.find((one) => one.id === Number(event.target.value));
                setRecordingId(chosen?.id ?? null);
                setStartS(0);
                setEndS(chosen?.duration_s ?? null);
              }}
            >
              {sensor.recordings.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <QuantityInput label="From" unit="s" decimals={2} value={startS} onChange={setStartS} />
          <QuantityInput label="To" unit="s" decimals={2} value={endS} onChange={setEndS} />
        </div>
        <Button
          size="sm"
          variant="outline-primary"
          disabled={taking || recordingId === null || startS === null || endS === null}
          onClick={() =>
            startS !== null && endS !== null && void take({ recording_id: recordingId, start_s: startS, end_s: endS })
          }
        >
          Take this stretch
        </Button>
      </details>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
}
