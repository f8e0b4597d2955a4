import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNavigate } from "react-router";
import { body, client, problemOf } from "../api/client";
import { type Sensor, useRefresh } from "../api/queries";
import { InputField } from "../units/InputField";
import type { Values } from "../units/inputs";

/** What a study is to vary, and where: the plan, before anything is taken. */
export function PlanStudy({ sensor }: { sensor: Sensor }) {
  const kinds = sensor.bench?.studies ?? [];
  const [name, setName] = useState(kinds[0]?.name ?? "");
  const [plan, setPlan] = useState<Values>({});
  const [problem, setProblem] = useState("");
  const navigate = useNavigate();
  const refresh = useRefresh();
  const kind = kinds.find((one) => one.name === name);
  if (!kind) return <p className="bench-note">There is nothing to study on this kind of sensor.</p>;

  async function save(event: React.FormEvent) {
    event.preventDefault();
    if (!kind) return;
    try {
      const made = await body(
        client.POST("/api/sensors/{sensor_id}/studies", {
          params: { path: { sensor_id: sensor.id } },
          body: { kind: kind.name, plan },
        }),
      );
      await navigate(`/sensors/${sensor.id}/studies/${made.id}`);
      await refresh();
    } catch (error) {
      setProblem(problemOf(error).detail);
    }
  }

  return (
    <Form className="panel" onSubmit={(event) => void save(event)} aria-label="Plan a study">
      <div className="fields">
        <Form.Group controlId="study-kind" className="quantity wide">
          <Form.Label>What to vary</Form.Label>
          <Form.Select
            size="sm"
            value={name}
            onChange={(event) => {
              setName(event.target.value);
              setPlan({});
            }}
          >
            {kinds.map((one) => (
              <option key={one.name} value={one.name}>
                {one.label}
              </option>
            ))}
          </Form.Select>
          <div className="field-hint">{kind.what}</div>
        </Form.Group>
        {kind.plan.map((input) => (
          <InputField
            key={`${kind.name} ${input.name}`}
            input={input}
            value={plan[input.name] ?? input.default}
            onChange={(value) => setPlan({ ...plan, [input.name]: value })}
          />
        ))}
      </div>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
      <div className="panel-actions">
        <Button type="submit" size="sm">
          Plan it
        </Button>
      </div>
    </Form>
  );
}
