import Form from "react-bootstrap/Form";

interface Props {
  /** What the same file became, in words. */
  as: string;
  again: boolean;
  onAgain: (again: boolean) => void;
}

/** This very file was brought in before: only on purpose a second time. */
export function AlreadyHere({ as, again, onAgain }: Props) {
  return (
    <div className="bench-note warning">
      <p>This very file is already here as {as}.</p>
      <Form.Check
        id="file-again"
        checked={again}
        onChange={(event) => onAgain(event.target.checked)}
        label="Bring it in a second time"
      />
    </div>
  );
}
