import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Parameters, Recording, Sensor, Step } from "../api/queries";
import { AirFields } from "../rig/AirFields";
import { useDeed } from "../shell/useDeed";
import { QuantityInput } from "../units/QuantityInput";
import { day } from "../units/dates";
import { quantityText, useUnits } from "../units/units";
import type { Draft } from "./draft";

interface Props {
  step: Step;
  sensor: Sensor;
  recording: Recording;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
}

/** The parameters of one stage, tried out as they are typed. */
export function StageParameters({ step, sensor, recording, draft, setDraft }: Props) {
  const parameters = draft.parameters ?? sensor.parameters;
  const set = (change: Partial<Parameters>) => setDraft({ parameters: { ...parameters, ...change } });
  const number = (name: keyof Parameters) => (value: number | null) => {
    if (value !== null) set({ [name]: value });
  };
  switch (step.stage) {
    case "echo":
      return (
        <div className="fields">
          <QuantityInput
            label="Timeout"
            unit="µs"
            decimals={0}
            value={parameters.timeout_us}
            onChange={number("timeout_us")}
            hint="an echo this long means nothing was heard"
          />
          <QuantityInput label="Timer tick, ±" unit="µs" value={parameters.tick_us} onChange={number("tick_us")} />
          <QuantityInput
            label="Detection, ±"
            unit="µs"
            value={parameters.detection_us}
            onChange={number("detection_us")}
            hint="early or late by half a wave: 12.5 at 40 kHz"
          />
        </div>
      );
    case "air":
      return (
        <>
          <AirModel parameters={parameters} sensor={sensor} set={set} />
          <AirFields air={draft.air ?? recording.air} onChange={(air) => setDraft({ air })} />
        </>
      );
    case "triangle":
      return (
        <div className="fields">
          <QuantityInput
            label="Emitter to receiver"
            quantity="smallLength"
            decimals={1}
            value={parameters.baseline_m}
            onChange={number("baseline_m")}
            hint="between the centres; 0 leaves the triangle out"
          />
        </div>
      );
    case "range":
      return (
        <div className="fields">
          <QuantityInput label="Nearest" quantity="length" value={parameters.min_m} onChange={number("min_m")} />
          <QuantityInput label="Farthest" quantity="length" value={parameters.max_m} onChange={number("max_m")} />
          <QuantityInput
            label="Beam, edge to edge"
            unit="°"
            perUnit={Math.PI / 180}
            decimals={1}
            value={parameters.beam_rad}
            onChange={number("beam_rad")}
            hint="some datasheets print half of it"
          />
        </div>
      );
    case "mount":
      return (
        <div className="fields">
          <QuantityInput
            label="Face behind the edge"
            quantity="smallLength"
            decimals={1}
            value={parameters.mount_m}
            onChange={number("mount_m")}
            hint="negative if it sticks out"
          />
          <QuantityInput
            label="Measured to, ±"
            quantity="smallLength"
            decimals={1}
            value={parameters.mount_tolerance_m}
            onChange={number("mount_tolerance_m")}
          />
        </div>
      );
    case "calibration":
      return <CalibrationChoice sensor={sensor} />;
    case "median":
      return (
        <Form.Group controlId="median-n" className="quantity">
          <Form.Label>Readings to choose from</Form.Label>
          <Form.Select
            size="sm"
            value={parameters.median_n}
            onChange={(event) => set({ median_n: Number(event.target.value) })}
          >
            {[1, 3, 5, 7, 9, 15].map((n) => (
              <option key={n} value={n}>
                {n === 1 ? "1, no filter" : n}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      );
    case "threshold":
      return (
        <div className="fields">
          <QuantityInput
            label="Blind after"
            unit="s"
            decimals={2}
            value={parameters.blind_stop_s}
            onChange={number("blind_stop_s")}
            hint="without any evidence for this long: stop"
          />
          <Form.Check
            id="silence"
            className="mt-2"
            checked={parameters.silence_is_clear}
            onChange={(event) => set({ silence_is_clear: event.target.checked })}
            label="No echo means an empty way (a soft or slanted thing is silent too)"
          />
        </div>
      );
    default:
      return <p className="quiet">Nothing to set: half the time is the way there.</p>;
  }
}

function AirModel({
  parameters,
  sensor,
  set,
}: {
  parameters: Parameters;
  sensor: Sensor;
  set: (change: Partial<Parameters>) => void;
}) {
  const units = useUnits();
  return (
    <div className="fields">
      <Form.Group controlId="air-model" className="quantity wide">
        <Form.Label>Speed of sound from</Form.Label>
        <Form.Select
          size="sm"
          value={parameters.air_model}
          onChange={(event) => set({ air_model: event.target.value })}
        >
          <optgroup label="this air">
            {sensor.air_models.map((model) => (
              <option key={model.name} value={model.name}>
                {model.label}: {model.formula}
              </option>
            ))}
          </optgroup>
          <optgroup label="a rule of thumb, and the air it assumes">
            {sensor.fixed_rules.map((rule) => (
              <option key={rule.name} value={rule.name}>
                {rule.label} (right at {quantityText(units, "temperature", rule.assumed_temperature_c, 1)})
              </option>
            ))}
            <option value="fixed">a constant of my own</option>
          </optgroup>
        </Form.Select>
      </Form.Group>
      {parameters.air_model === "fixed" && (
        <QuantityInput
          label="Constant"
          unit="m/s"
          decimals={1}
          value={parameters.fixed_speed_m_per_s}
          onChange={(value) => value !== null && set({ fixed_speed_m_per_s: value })}
        />
      )}
    </div>
  );
}

function CalibrationChoice({ sensor }: { sensor: Sensor }) {
  const deed = useDeed();
  const choose = (id: number | null) =>
    body(
      client.PATCH("/api/sensors/{sensor_id}", {
        params: { path: { sensor_id: sensor.id } },
        body: { calibration_id: id },
      }),
    );

  function change(value: string) {
    const before = sensor.calibration?.id ?? null;
    void deed(
      () => choose(value === "" ? null : Number(value)),
      "Another calibration is in use.",
      () => choose(before),
    );
  }

  return (
    <Form.Group controlId="calibration-in-use" className="quantity wide">
      <Form.Label>Calibration in use</Form.Label>
      <Form.Select size="sm" value={sensor.calibration?.id ?? ""} onChange={(event) => change(event.target.value)}>
        <option value="">none</option>
        {sensor.calibrations.map((one) => (
          <option key={one.id} value={one.id}>
            {day(one.made_at)}, {one.marks} marks, {(one.offset_m * 1000).toFixed(1)} mm, × {one.scale.toFixed(4)}
          </option>
        ))}
      </Form.Select>
      <div className="field-hint">Each stays as it was made; nothing overwrites it.</div>
    </Form.Group>
  );
}
