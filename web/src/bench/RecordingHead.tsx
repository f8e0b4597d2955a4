import type { ReactNode } from "react";
import Form from "react-bootstrap/Form";
import type { BenchProps } from "./types";
import { day } from "../units/dates";
import { grouped, quantityText, useUnits } from "../units/units";

/** Which recording is on the bench, its counts and its air. */
export function RecordingHead({
  sensor,
  recording,
  bench,
  onRecording,
  look,
  seen,
  draft,
  openCell,
  children,
  below,
}: BenchProps & { children?: ReactNode; below?: ReactNode }) {
  const units = useUnits();
  if (!recording) return null;
  const air = draft.air ?? recording.air;
  return (
    <div className="recording-head">
      <Form.Select
        size="sm"
        aria-label="Recording"
        className="recording-choice"
        value={recording.id}
        onChange={(event) => onRecording(Number(event.target.value))}
      >
        {sensor.recordings.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}, {day(one.recorded_at)}
          </option>
        ))}
      </Form.Select>
      {bench.surroundings_node && (
        <button
          type="button"
          className="air-button"
          onClick={() => openCell(bench.surroundings_node)}
          title="Enter the air this was recorded in"
        >
          air {quantityText(units, "temperature", air.temperature_c, 1)} · {Math.round(air.relative_humidity * 100)} %
          RH
          <span aria-hidden="true"> ✎</span>
        </button>
      )}
      {children}
      <span className="figures-inline">
        <span>
          {grouped(recording.samples, 0)} {bench.sample}, {recording.rate_hz.toFixed(1)} a second
          {look &&
            Object.entries(seen?.counts ?? {})
              .filter(([status, count]) => status !== "ok" && count > 0)
              .map(([status, count]) => (
                <span key={status} className={bench.fine.includes(status) ? "fine-count" : "flag-count"}>
                  {grouped(count, 0)} × {status.replaceAll("_", " ")}
                </span>
              ))}
          {seen?.beside && <span className="footprint">{seen.beside}</span>}
        </span>
        {below}
      </span>
    </div>
  );
}
