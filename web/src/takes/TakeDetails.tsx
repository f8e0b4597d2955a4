import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import { AirFields } from "../rig/AirFields";
import { useDeed } from "../shell/useDeed";
import { QuantityInput } from "../units/QuantityInput";
import type { Take } from "./queries";

/** Name, tags and the conditions a recording was made in. */
export function TakeDetails({ take, onDone }: { take: Take; onDone: () => void }) {
  const [name, setName] = useState(take.name);
  const [tags, setTags] = useState(take.tags.join(", "));
  const [air, setAir] = useState(take.air);
  const [conditions, setConditions] = useState(take.conditions);
  const deed = useDeed();

  async function save(event: FormEvent) {
    event.preventDefault();
    const write = (change: { name: string; tags: string[]; air: Take["air"]; conditions: Take["conditions"] }) =>
      body(client.PATCH("/api/takes/{take_id}", { params: { path: { take_id: take.id } }, body: change }));
    const fresh = tags
      .split(",")
      .map((tag) => tag.trim())
      .filter(Boolean);
    const done = await deed(
      () => write({ name: name.trim(), tags: fresh, air, conditions }),
      `“${name.trim()}” is changed.`,
      () => write({ name: take.name, tags: take.tags, air: take.air, conditions: take.conditions }),
    );
    if (done) onDone();
  }

  return (
    <Form className="panel" aria-label="Conditions of the recording" onSubmit={(event) => void save(event)}>
      <div className="fields">
        <Form.Group controlId="take-name" className="quantity wide">
          <Form.Label>Name</Form.Label>
          <Form.Control
            size="sm"
            required
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Form.Group>
        <Form.Group controlId="take-tags" className="quantity wide">
          <Form.Label>Tags, with commas between</Form.Label>
          <Form.Control size="sm" maxLength={300} value={tags} onChange={(event) => setTags(event.target.value)} />
        </Form.Group>
        <Form.Group controlId="take-light" className="quantity wide">
          <Form.Label>Light</Form.Label>
          <Form.Control
            size="sm"
            maxLength={200}
            placeholder="lamps on, curtain drawn"
            value={conditions.light}
            onChange={(event) => setConditions({ ...conditions, light: event.target.value })}
          />
        </Form.Group>
        <QuantityInput
          label="Sensors’ height"
          unit="mm"
          decimals={1}
          value={conditions.height_mm}
          onChange={(height_mm) => setConditions({ ...conditions, height_mm })}
        />
        <QuantityInput
          label="Battery"
          unit="V"
          decimals={2}
          value={conditions.battery_v}
          onChange={(battery_v) => setConditions({ ...conditions, battery_v })}
        />
        <Form.Group controlId="take-notes" className="quantity wide">
          <Form.Label>Notes</Form.Label>
          <Form.Control
            size="sm"
            as="textarea"
            rows={1}
            maxLength={2000}
            value={conditions.notes}
            onChange={(event) => setConditions({ ...conditions, notes: event.target.value })}
          />
        </Form.Group>
      </div>
      <div className="fields">
        <AirFields air={air} onChange={setAir} />
      </div>
      <div className="panel-actions">
        <Button type="submit" size="sm" disabled={name.trim() === ""}>
          Keep it
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </Form>
  );
}
