import Modal from "react-bootstrap/Modal";
import type { Recording, View } from "../api/queries";
import { useKey } from "../shell/keys";
import { type Trust, trustWords } from "./trust";
import { grouped, measured, useUnits } from "../units/units";

interface Props {
  show: boolean;
  view: View;
  recording: Recording;
  sensorName: string;
  trust: Trust | null;
  onAt: (at: number) => void;
  onHide: () => void;
}

/** The reading in hand in figures legible from two metres. */
export function Readout({ show, view, recording, sensorName, trust, onAt, onHide }: Props) {
  const units = useUnits();
  const steps = view.working;
  const step = steps.filter((one) => one.stage !== "threshold").at(-1);
  const decision = steps.find((one) => one.stage === "threshold");
  const at = view.at_s ?? 0;
  const period = recording.rate_hz > 0 ? 1 / recording.rate_hz : 0.05;
  const move = (by: number) => onAt(Math.min(view.duration_s, Math.max(0, at + by * period)));
  const word = decision?.shown ?? (view.at_status === "ok" ? "" : view.at_status.replace("_", " "));
  const [value, spread, unit] =
    step && step.value !== null && step.u !== null
      ? measured(units, "length", step.value, 2 * step.u)
      : ["– –", "", ""];
  return (
    <Modal show={show} onHide={onHide} fullscreen animation={false} className="readout" aria-labelledby="readout-title">
      {show && <ReadoutKeys onMove={move} onHide={onHide} />}
      <Modal.Header closeButton>
        <Modal.Title id="readout-title" as="h2">
          {sensorName} · “{recording.name}” at {grouped(at, 2)} s
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="readout-figure">
          {value}
          <span className="readout-unit">{unit}</span>
        </p>
        <p className="readout-below">
          <span>{spread ? `± ${spread} ${unit}` : "no distance"}</span>
          {word && <span className={`readout-word word-${word.split(":")[0]?.replace(" ", "-")}`}>{word}</span>}
          {trustWords(trust) && <span className="readout-word trust-words">{trustWords(trust)}</span>}
        </p>
        <div className="readout-steps">
          <button type="button" onClick={() => move(-1)}>
            <kbd>←</kbd> one back
          </button>
          <span>
            reading {grouped((view.at_index ?? 0) + 1, 0)} of {grouped(view.samples, 0)}
          </span>
          <button type="button" onClick={() => move(1)}>
            one on <kbd>→</kbd>
          </button>
        </div>
      </Modal.Body>
    </Modal>
  );
}

function ReadoutKeys({ onMove, onHide }: { onMove: (by: number) => void; onHide: () => void }) {
  useKey("ArrowLeft", () => onMove(-1), true);
  useKey("ArrowRight", () => onMove(1), true);
  useKey("r", onHide, true);
  return null;
}
