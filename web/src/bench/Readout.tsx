import type { ReactNode } from "react";
import Modal from "react-bootstrap/Modal";
import type { Look, OutputSeen, Recording } from "../api/queries";
import { useKey } from "../shell/keys";
import { TrustWords } from "./TrustWords";
import type { Trust } from "./trust";
import { measuredIn, useReads } from "../units/shown";
import { grouped } from "../units/units";

interface Props {
  show: boolean;
  look: Look;
  seen: OutputSeen;
  decision: OutputSeen | undefined;
  recording: Recording;
  sensorName: string;
  trust: Trust | null;
  picture: ReactNode;
  onAt: (at: number) => void;
  onHide: () => void;
}

/** The reading in hand in figures legible from two metres. */
export function Readout({ show, look, seen, decision, recording, sensorName, trust, picture, onAt, onHide }: Props) {
  const reads = useReads(seen.quantity.shown);
  const step = seen.working.at(-1);
  const decided = decision?.at_s === seen.at_s ? decision.working.at(-1) : undefined;
  const at = seen.at_s ?? 0;
  const period = recording.rate_hz > 0 ? 1 / recording.rate_hz : 0.05;
  const move = (by: number) => onAt(Math.min(look.duration_s, Math.max(0, at + by * period)));
  const flagged = seen.at_status === "ok" ? "" : (step?.status_word ?? "");
  const word = decided?.shown ?? flagged;
  const [value, spread, unit] =
    step && step.value !== null && step.u !== null ? measuredIn(reads, step.value, 2 * step.u) : ["– –", "", ""];
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
          <span>{spread ? `± ${spread} ${unit}` : `no ${seen.label.toLowerCase()}`}</span>
          {word && <span className={`readout-word word-${decided?.state_look || "alarm"}`}>{word}</span>}
          <TrustWords trust={trust} air={look.air} className="readout-word" />
        </p>
        {picture}
        <div className="readout-steps">
          <button type="button" onClick={() => move(-1)}>
            <kbd>←</kbd> one back
          </button>
          <span>
            reading {seen.at_index === null ? "" : `${grouped(seen.at_index + 1, 0)} `}of {grouped(seen.samples, 0)}
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
