import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import type { Sensor } from "../api/queries";
import { type Draft, NOTHING_TRIED } from "./draft";
import type { Trial } from "./useTrial";

interface Props {
  sensor: Sensor;
  trial: Trial;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
  /** Whether a decision on trial is told elsewhere on the page, with its own way to keep it. */
  hidesRule: boolean;
}

/** While air, chain or decision are tried out: save them, or put them back. */
export function TryOut({ sensor, trial, draft, setDraft, hidesRule }: Props) {
  const [alsoNow, setAlsoNow] = useState(true);
  if (!trial.says || (hidesRule && !draft.air && !draft.parameters)) return null;
  return (
    <section className="try-out" aria-label="Trying out">
      <p>Trying out {trial.says}; nothing is kept yet.</p>
      {draft.air && (
        <Form.Check
          id="also-now"
          checked={alsoNow}
          onChange={(event) => setAlsoNow(event.target.checked)}
          label={`It is also the air around ${sensor.rig_name} now`}
        />
      )}
      <Button size="sm" disabled={trial.saving} onClick={() => void trial.save(alsoNow)}>
        Keep
      </Button>
      <Button size="sm" variant="outline-primary" onClick={() => setDraft(NOTHING_TRIED)}>
        Cancel
      </Button>
    </section>
  );
}
