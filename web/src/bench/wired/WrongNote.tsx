import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import type { Sensor } from "../../api/queries";
import { useSignOff } from "../signoff/useSignOff";

/** Something no check can see: a loose lead, a smell, a reading that makes no sense. */
export function WrongNote({ sensor }: { sensor: Sensor }) {
  const [note, setNote] = useState("");
  const signOff = useSignOff(sensor, "wired");

  async function keep(event: FormEvent) {
    event.preventDefault();
    if (await signOff(false, note)) setNote("");
  }

  return (
    <form className="panel" aria-label="Something is wrong" onSubmit={(event) => void keep(event)}>
      <h2>Something is wrong that no check sees?</h2>
      <div className="fields">
        <Form.Group controlId="sign-note" className="quantity wide">
          <Form.Label>Note</Form.Label>
          <Form.Control size="sm" maxLength={2000} value={note} placeholder="a loose lead, a smell, a reading that makes no sense" onChange={(event) => setNote(event.target.value)} />
        </Form.Group>
        <Button type="submit" size="sm" variant="outline-primary" disabled={note.trim() === ""}>
          Note it as wrong
        </Button>
      </div>
    </form>
  );
}
