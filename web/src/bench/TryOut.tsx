import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Recording, Sensor } from "../api/queries";
import { useDeed } from "../shell/useDeed";
import type { Draft } from "./draft";

interface Props {
  sensor: Sensor;
  recording: Recording;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
}

/** While air or chain are tried out: save them, or put them back. */
export function TryOut({ sensor, recording, draft, setDraft }: Props) {
  const [alsoNow, setAlsoNow] = useState(true);
  const [saving, setSaving] = useState(false);
  const deed = useDeed();
  if (draft.air === null && draft.parameters === null) return null;

  async function write(next: { air: Draft["air"]; parameters: Draft["parameters"]; rigAir: Draft["air"] }) {
    if (next.air) {
      await body(
        client.PATCH("/api/recordings/{recording_id}", {
          params: { path: { recording_id: recording.id } },
          body: { air: next.air },
        }),
      );
    }
    if (next.rigAir) {
      await body(
        client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: sensor.rig_id } }, body: { air: next.rigAir } }),
      );
    }
    if (next.parameters) {
      await body(
        client.PATCH("/api/sensors/{sensor_id}", {
          params: { path: { sensor_id: sensor.id } },
          body: { parameters: next.parameters },
        }),
      );
    }
  }

  async function save() {
    setSaving(true);
    const before = {
      air: draft.air ? recording.air : null,
      rigAir: draft.air && alsoNow ? sensor.rig_air : null,
      parameters: draft.parameters ? sensor.parameters : null,
    };
    const next = { air: draft.air, parameters: draft.parameters, rigAir: draft.air && alsoNow ? draft.air : null };
    const said = draft.air ? "The air is noted." : "The chain is changed.";
    if (
      await deed(
        () => write(next),
        said,
        () => write(before),
      )
    )
      setDraft({ air: null, parameters: null });
    setSaving(false);
  }

  return (
    <section className="try-out" aria-label="Trying out">
      <p>
        Trying out{draft.air ? " other air" : ""}
        {draft.parameters ? " another chain" : ""}; nothing is kept yet.
      </p>
      {draft.air && (
        <Form.Check
          id="also-now"
          checked={alsoNow}
          onChange={(event) => setAlsoNow(event.target.checked)}
          label={`It is also the air around ${sensor.rig_name} now`}
        />
      )}
      <Button size="sm" disabled={saving} onClick={() => void save()}>
        Keep
      </Button>
      <Button size="sm" variant="outline-primary" onClick={() => setDraft({ air: null, parameters: null })}>
        Cancel
      </Button>
    </section>
  );
}
