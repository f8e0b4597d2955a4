import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Recording, Sensor, Step } from "../api/queries";
import { useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";
import { Budget } from "./Budget";
import { StageParameters } from "./StageParameters";
import { type Draft } from "./draft";

interface Props {
  step: Step;
  sensor: Sensor;
  recording: Recording;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
  onClose: () => void;
}

/** What stands behind one cell: formula, numbers, source, budget, and its parameters. */
export function CellPanel({ step, sensor, recording, draft, setDraft, onClose }: Props) {
  const [alsoNow, setAlsoNow] = useState(true);
  const [saving, setSaving] = useState(false);
  const refresh = useRefresh();
  const notices = useNotices();
  const tried = draft.air !== null || draft.parameters !== null;

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
    await refresh();
  }

  async function save() {
    setSaving(true);
    const before = {
      air: draft.air ? recording.air : null,
      rigAir: draft.air && alsoNow ? sensor.rig_air : null,
      parameters: draft.parameters ? sensor.parameters : null,
    };
    try {
      await write({ air: draft.air, parameters: draft.parameters, rigAir: draft.air && alsoNow ? draft.air : null });
      setDraft({ air: null, parameters: null });
      notices.done(draft.air ? "The air is noted." : "The chain is changed.", () => write(before));
    } catch (error) {
      notices.failed(error);
    } finally {
      setSaving(false);
    }
  }

  return (
    <section className="cell-panel" aria-label={`${step.label}: formula, numbers and uncertainty`}>
      <div className="cell-how">
        <h2>{step.label}</h2>
        <p className="formula">{step.formula}</p>
        <p className="filled">
          {step.filled}
          {step.value !== null && step.unit && <b> = {step.shown} {step.unit}</b>}
        </p>
        {step.note && <p>{step.note}</p>}
        <p className="quiet">Source: {step.source}.</p>
      </div>
      <Budget step={step} />
      <div className="cell-parameters">
        <StageParameters step={step} sensor={sensor} recording={recording} draft={draft} setDraft={setDraft} />
        {tried && (
          <div className="tried">
            <p>Trying out; nothing is saved yet.</p>
            {draft.air && (
              <Form.Check
                id="also-now"
                checked={alsoNow}
                onChange={(event) => setAlsoNow(event.target.checked)}
                label={`It is also the air around ${sensor.rig_name} now`}
              />
            )}
            <Button size="sm" disabled={saving} onClick={() => void save()}>
              Save
            </Button>
            <Button size="sm" variant="outline-primary" onClick={() => setDraft({ air: null, parameters: null })}>
              Put back
            </Button>
          </div>
        )}
      </div>
      <button type="button" className="panel-close" aria-label="Close" onClick={onClose}>
        ×
      </button>
    </section>
  );
}
