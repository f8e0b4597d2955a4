import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import type { Sensor } from "../../api/queries";
import { NoteField } from "../signoff/NoteField";
import { SignTable } from "../signoff/SignTable";
import { useSignOff } from "../signoff/useSignOff";
import { RunChoice } from "./RunChoice";

/** Driven: a person, not a rule, says how it went. */
export function DrivenBench({ sensor }: { sensor: Sensor }) {
  const { note, setNote, sign } = useSignOff(sensor, "driven");
  const [run, setRun] = useState<number | null>(null);

  return (
    <div className="sign-off">
      <form
        className="panel"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          void sign(true, run);
        }}
      >
        <h2>Drive, and note how it went</h2>
        <p>{sensor.asks_of_a_drive}</p>
        <p className="quiet">
          {sensor.name}: {sensor.family_label}
          {sensor.pins && <>, on {sensor.pins}</>}
          {sensor.place && <>, {sensor.place}</>}.
        </p>
        <RunChoice sensor={sensor} recordingId={run} onChoose={setRun} />
        <NoteField note={note} onChange={setNote} placeholder="where, how fast, what happened" />
        <div className="panel-actions">
          <Button type="submit" size="sm">
            It went as expected
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => void sign(false, run)}>
            It did not
          </Button>
        </div>
        <p className="caution">
          First run with the wheels off the floor. Guard what spins, protect your eyes, keep a stop within reach and
          people out of the way. On a road local rules decide. Tick Stone is not a safety device.
        </p>
      </form>
      <SignTable sensor={sensor} stage="driven" />
    </div>
  );
}
