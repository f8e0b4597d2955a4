import Button from "react-bootstrap/Button";
import ProgressBar from "react-bootstrap/ProgressBar";
import type { Sending } from "./useSending";

/** How far a file has been sent, and a way to stop it. then: what the server does once it has it. */
export function SendingRow({ sending, then }: { sending: Sending; then: string }) {
  const share = sending.share ?? 0;
  return (
    <div className="progress-row">
      <ProgressBar now={100 * share} label={share < 1 ? "sending" : then} aria-label="Sending the file" />
      <Button size="sm" variant="outline-primary" onClick={sending.stop}>
        Stop
      </Button>
    </div>
  );
}
