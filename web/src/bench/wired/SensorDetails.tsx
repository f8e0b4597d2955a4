import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNavigate } from "react-router";
import { body, client } from "../../api/client";
import { type Sensor, useRefresh } from "../../api/queries";
import { useNotices } from "../../shell/Notices";

type Details = Pick<Sensor, "name" | "place">;

/** What a sensor is called, where it sits and on which pins; and putting it away. */
export function SensorDetails({ sensor }: { sensor: Sensor }) {
  const before: Details = { name: sensor.name, place: sensor.place };
  const [details, setDetails] = useState(before);
  const navigate = useNavigate();
  const refresh = useRefresh();
  const notices = useNotices();
  const path = { sensor_id: sensor.id };
  const changed = (Object.keys(before) as (keyof Details)[]).some((name) => details[name].trim() !== before[name]);

  async function write(next: Details) {
    await body(client.PATCH("/api/sensors/{sensor_id}", { params: { path }, body: next }));
    await refresh();
  }

  async function save(event: FormEvent) {
    event.preventDefault();
    try {
      await write(details);
      notices.done("The sensor is changed.", () => write(before));
    } catch (error) {
      notices.failed(error);
    }
  }

  async function putAway() {
    try {
      await body(client.DELETE("/api/sensors/{sensor_id}", { params: { path } }));
      notices.done(`${sensor.name} is put away.`, async () => {
        await body(client.POST("/api/sensors/{sensor_id}/restore", { params: { path } }));
        await refresh();
      });
      await navigate(`/rigs/${sensor.rig_id}`);
      await refresh();
    } catch (error) {
      notices.failed(error);
    }
  }

  const field = (name: keyof Details, label: string, placeholder: string) => (
    <Form.Group controlId={`sensor-${name}`} className="quantity">
      <Form.Label>{label}</Form.Label>
      <Form.Control
        size="sm"
        maxLength={120}
        required={name === "name"}
        value={details[name]}
        placeholder={placeholder}
        onChange={(event) => setDetails({ ...details, [name]: event.target.value })}
      />
    </Form.Group>
  );

  return (
    <Form className="panel" aria-label="The sensor" onSubmit={(event) => void save(event)}>
      <h2>The sensor</h2>
      <div className="fields">
        {field("name", "Its name", "Front ranger")}
        {field("place", "Place", "front, 95 mm up")}
        <div className="panel-actions inline">
          <Button type="submit" size="sm" disabled={!changed || details.name.trim() === ""}>
            Change it
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => void putAway()}>
            Put the sensor away
          </Button>
        </div>
      </div>
    </Form>
  );
}
