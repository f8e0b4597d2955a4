import { useEffect } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { useBlocker } from "react-router";
import type { Recording, Sensor } from "../api/queries";
import type { Trial } from "./useTrial";

interface Props {
  sensor: Sensor;
  recording: Recording | null;
  trial: Trial;
}

/** Who leaves while something is tried out says whether it is kept. */
export function Leaving({ sensor, recording, trial }: Props) {
  const blocker = useBlocker(({ nextLocation: next }) => {
    if (!trial.says || trial.saving) return false;
    if (!next.pathname.startsWith(`/sensors/${sensor.id}/`)) return true;
    const wanted = Number(new URLSearchParams(next.search).get("recording"));
    const after = sensor.recordings.find((one) => one.id === wanted) ?? sensor.recordings[0] ?? null;
    return after?.id !== recording?.id;
  });
  // Who leaves right after keeping is asked before what was kept has come back; then there is nothing to ask.
  const isKeptMeanwhile = blocker.state === "blocked" && !trial.says && !trial.saving;
  useEffect(() => {
    if (isKeptMeanwhile) blocker.proceed?.();
  }, [isKeptMeanwhile, blocker]);
  if (blocker.state !== "blocked" || isKeptMeanwhile) return null;
  const { proceed, reset } = blocker;
  return (
    <Modal show onHide={reset} animation={false} centered aria-labelledby="leaving-title">
      <Modal.Header closeButton>
        <Modal.Title id="leaving-title" as="h2">
          Keep what is tried out?
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {sensor.name} has {trial.says} on trial. Nothing of it is kept yet.
      </Modal.Body>
      <Modal.Footer>
        <Button
          disabled={trial.saving}
          onClick={() => void trial.save(false).then((kept) => (kept ? proceed() : reset()))}
        >
          Keep it
        </Button>
        <Button variant="outline-primary" onClick={proceed}>
          Drop it
        </Button>
        <Button variant="outline-primary" onClick={reset}>
          Stay here
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
