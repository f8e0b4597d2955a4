import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNavigate } from "react-router";
import { body, client } from "../api/client";
import { useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";

/** A new ultrasonic ranger on a rig. */
export function AddSensor({ rigId, onDone }: { rigId: number; onDone: () => void }) {
  const [name, setName] = useState("");
  const [leads, setLeads] = useState("");
  const navigate = useNavigate();
  const refresh = useRefresh();
  const notices = useNotices();

  async function add(event: FormEvent) {
    event.preventDefault();
    try {
      const sensor = await body(
        client.POST("/api/rigs/{rig_id}/sensors", {
          params: { path: { rig_id: rigId } },
          body: { name, leads, place: "", family: "ultrasonic_ranger" },
        }),
      );
      await refresh();
      onDone();
      await navigate(`/sensors/${sensor.id}/wired`);
    } catch (error) {
      notices.failed(error);
    }
  }

  return (
    <form className="panel new-row" onSubmit={(event) => void add(event)} aria-label="New sensor">
      <Form.Group controlId="sensor-name">
        <Form.Label>New ultrasonic ranger</Form.Label>
        <Form.Control size="sm" required maxLength={120} value={name} placeholder="its name, such as Rear ranger" onChange={(e) => setName(e.target.value)} />
      </Form.Group>
      <Form.Group controlId="sensor-leads">
        <Form.Label>Pins</Form.Label>
        <Form.Control size="sm" maxLength={120} value={leads} placeholder="D7 D8" onChange={(e) => setLeads(e.target.value)} />
      </Form.Group>
      <Button type="submit" size="sm" disabled={name.trim() === ""}>
        Add it
      </Button>
      <Button size="sm" variant="outline-primary" onClick={onDone}>
        Leave it
      </Button>
    </form>
  );
}
