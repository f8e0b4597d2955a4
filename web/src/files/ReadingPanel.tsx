import Button from "react-bootstrap/Button";
import ProgressBar from "react-bootstrap/ProgressBar";

interface Props {
  sourceName: string;
  /** How much is read, 0 to 1. */
  share: number;
  /** What came of it so far. */
  says: string;
  onStop: () => void;
}

/** A file on its way into the store. */
export function ReadingPanel({ sourceName, share, says, onStop }: Props) {
  return (
    <div className="panel" aria-live="polite">
      <h2>Reading “{sourceName}”</h2>
      <ProgressBar now={100 * share} aria-label="Reading the file" />
      <p>{says}</p>
      <Button size="sm" variant="outline-primary" onClick={onStop}>
        Stop, keep nothing
      </Button>
    </div>
  );
}
