import type { ReactNode } from "react";
import Form from "react-bootstrap/Form";
import type { BenchProps } from "./types";
import { day } from "../units/dates";
import { grouped, quantityText, useUnits } from "../units/units";

const COUNTED: [string, string][] = [
  ["no_echo", "no echo"],
  ["timed_out", "timed out"],
  ["too_near", "too near"],
  ["too_far", "too far"],
];

/** Which recording is on the bench, its counts and its air. */
export function RecordingHead({
  sensor,
  recording,
  onRecording,
  view,
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
      <button
        type="button"
        className="air-button"
        onClick={() => openCell("air")}
        title="Enter the air this was recorded in"
      >
        air {quantityText(units, "temperature", air.temperature_c, 1)} · {Math.round(air.relative_humidity * 100)} % RH
        <span aria-hidden="true"> ✎</span>
      </button>
      {children}
      <span className="figures-inline">
        <span>
          {grouped(recording.samples, 0)} echoes, {recording.rate_hz.toFixed(1)} a second
          {view &&
            COUNTED.filter(([status]) => (view.counts[status] ?? 0) > 0).map(([status, words]) => (
              <span key={status} className="flag-count">
                {grouped(view.counts[status] ?? 0, 0)} {words}
              </span>
            ))}
          {view?.footprint_m != null && (
            <span className="footprint" title="Width of the beam where the reading in hand was taken">
              beam there {quantityText(units, "length", view.footprint_m, 2)} wide
            </span>
          )}
        </span>
        {below}
      </span>
    </div>
  );
}
