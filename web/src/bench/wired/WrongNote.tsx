import type { FormEvent } from "react";
import Button from "react-bootstrap/Button";
import type { Sensor } from "../../api/queries";
import { NoteField } from "../signoff/NoteField";
import { useSignOff } from "../signoff/useSignOff";

/** Something no check can see: a loose lead, a smell, a reading that makes no sense. */
export function WrongNote({ sensor }: { sensor: Sensor }) {
  const { note, setNote, sign } = useSignOff(sensor, "wired");

  function keep(event: FormEvent) {
    event.preventDefault();
    void sign(false);
  }

  return (
    <form className="panel" aria-label="Something is wrong" onSubmit={keep}>
      <h2>Something is wrong that no check sees?</h2>
      <div className="fields">
        <NoteField note={note} onChange={setNote} placeholder="a loose lead, a smell, a reading that makes no sense" />
        <Button type="submit" size="sm" variant="outline-primary" disabled={note.trim() === ""}>
          Note it as wrong
        </Button>
      </div>
    </form>
  );
}
