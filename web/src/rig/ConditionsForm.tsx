import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import type { Air, Rig } from "../api/queries";
import { useKey } from "../shell/keys";
import { HOLDS_KEYS, usePanel } from "../shell/usePanel";
import { useDeed } from "../shell/useDeed";
import { AirFields } from "./AirFields";

/** The air the rig stands in now. */
export function ConditionsForm({ rig, onDone }: { rig: Rig; onDone: () => void }) {
  const [air, setAir] = useState<Air>(rig.air);
  const deed = useDeed();
  const panel = usePanel<HTMLFormElement>();
  useKey("Escape", onDone);
  const save = (next: Air) =>
    body(client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: rig.id } }, body: { air: next } }));

  async function submit(event: FormEvent) {
    event.preventDefault();
    if (
      await deed(
        () => save(air),
        `The air around ${rig.name} is noted.`,
        () => save(rig.air),
      )
    )
      onDone();
  }

  return (
    <form
      ref={panel}
      {...HOLDS_KEYS}
      className="panel"
      onSubmit={(event) => void submit(event)}
      aria-label="The air now"
    >
      <AirFields air={air} onChange={setAir} />
      <div className="panel-actions">
        <Button type="submit" size="sm">
          Keep the air
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
