import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Bench, CalibrationKind, Recording, Sensor, Step } from "../api/queries";
import { AirFields } from "../rig/AirFields";
import { useDeed } from "../shell/useDeed";
import { InputField } from "../units/InputField";
import { asked } from "../units/inputs";
import type { Draft } from "./draft";

interface Props {
  step: Step;
  sensor: Sensor;
  bench: Bench;
  recording: Recording;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
}

/** What may be set of one cell, tried out as it is typed. */
export function StageParameters({ step, sensor, bench, recording, draft, setDraft }: Props) {
  const values = draft.parameters ?? sensor.parameters;
  const inputs = asked(bench.inputs, values).filter((one) => one.node === step.stage);
  const calibration = bench.calibrations.find((one) => one.node === step.stage);
  const hasAir = bench.surroundings_node === step.stage;
  if (inputs.length === 0 && !hasAir && !calibration) return <p className="quiet">Nothing to set here.</p>;
  const switches = inputs.filter((one) => one.form === "switch");
  const field = (input: (typeof inputs)[number]) => (
    <InputField
      key={input.name}
      input={input}
      value={values[input.name] ?? input.default}
      onChange={(value) => value !== null && setDraft({ parameters: { ...values, [input.name]: value } })}
    />
  );
  return (
    <>
      {inputs.length > 0 && <div className="fields">{inputs.filter((one) => one.form !== "switch").map(field)}</div>}
      {switches.map(field)}
      {hasAir && <AirFields air={draft.air ?? recording.air} onChange={(air) => setDraft({ air })} />}
      {calibration && <CalibrationChoice sensor={sensor} kind={calibration} />}
    </>
  );
}

function CalibrationChoice({ sensor, kind }: { sensor: Sensor; kind: CalibrationKind }) {
  const deed = useDeed();
  const known = sensor.calibrations.filter((one) => one.kind === kind.name);
  const inUse = known.find((one) => one.is_in_use);
  const used = inUse?.id ?? null;
  const choose = (id: number | null, undone_by = "") =>
    body(
      client.PUT("/api/sensors/{sensor_id}/calibrations/{kind}", {
        params: { path: { sensor_id: sensor.id, kind: kind.name } },
        body: { calibration_id: id, undone_by },
      }),
    );

  function change(value: string) {
    void deed(
      () => choose(value === "" ? null : Number(value)),
      "Another calibration is in use.",
      () => choose(used, inUse?.undone_by),
    );
  }

  return (
    <Form.Group controlId="calibration-in-use" className="quantity wide">
      <Form.Label>Calibration in use</Form.Label>
      <Form.Select size="sm" value={used ?? ""} onChange={(event) => change(event.target.value)}>
        <option value="">none</option>
        {known.map((one) => (
          <option key={one.id} value={one.id}>
            {[one.label, ...one.certificate.map((line) => `${line.label} ${line.text}`)].join(", ")}
          </option>
        ))}
      </Form.Select>
      <div className="field-hint">Each stays as it was made; nothing overwrites it.</div>
    </Form.Group>
  );
}
