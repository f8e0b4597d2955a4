import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import type { Sensor } from "../../api/queries";
import { NoteField } from "../signoff/NoteField";
import { useSignOff } from "../signoff/useSignOff";

/** A rig whose board nobody chose: nothing to check the wiring against, so a person's word counts. */
export function WithoutBoard({ sensor }: { sensor: Sensor }) {
  const { note, setNote, sign } = useSignOff(sensor, "wired");

  return (
    <section className="panel" aria-label="Look the wiring over">
      <h2>Which board is it wired to?</h2>
      <p>
        With a board, Tick Stone proposes pins, finds faults before power, and leads through the wiring step by step.
      </p>
      <p className="panel-actions">
        <Link className="btn btn-sm btn-primary" to={`/rigs/${sensor.rig_id}/wire/plan`}>
          Choose the board
        </Link>
      </p>
      <h2 className="mt-3">Or look it over yourself</h2>
      <p>
        Power off. Follow each lead with a finger: ground, supply, then signals. A second pair of eyes finds what the
        first cannot.
      </p>
      <NoteField note={note} onChange={setNote} placeholder="what was looked at, by whom" />
      <div className="panel-actions">
        <Button size="sm" onClick={() => void sign(true)}>
          It is right
        </Button>
        <Button size="sm" variant="outline-primary" onClick={() => void sign(false)}>
          Something is wrong
        </Button>
      </div>
      <p className="caution">
        Check the supply’s polarity before power. Never short, pierce or charge lithium cells unattended. Solder fume
        and fibreglass dust: extract, do not breathe, wash hands.
      </p>
    </section>
  );
}
