import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { type Air, type Rig, useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";
import { AirFields } from "./AirFields";

/** The air the rig stands in now. */
export function ConditionsForm({ rig, onDone }: { rig: Rig; onDone: () => void }) {
  const [air, setAir] = useState<Air>(rig.air);
  const refresh = useRefresh();
  const notices = useNotices();

  async function save(next: Air) {
    await body(client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: rig.id } }, body: { air: next } }));
    await refresh();
  }

  async function submit(event: FormEvent) {
    event.preventDefault();
    try {
      await save(air);
      notices.done(`The air around ${rig.name} is noted.`, () => save(rig.air));
      onDone();
    } catch (error) {
      notices.failed(error);
    }
  }

  return (
    <form className="panel" onSubmit={(event) => void submit(event)} aria-label="The air now">
      <AirFields air={air} onChange={setAir} />
      <div className="panel-actions">
        <Button type="submit" size="sm">
          Save the air
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}
