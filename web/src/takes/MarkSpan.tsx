import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import { useDeed } from "../shell/useDeed";
import { readsIn } from "../units/shown";
import { useUnits } from "../units/units";
import type { Take } from "./queries";
import { plotTime } from "./words";
import { numberOrNull } from "../units/typed";

interface Props {
  take: Take;
  span: [number, number];
  channel: number | null;
  onDone: () => void;
}

/** A known true value from A to B. */
export function MarkSpan({ take, span, channel, onDone }: Props) {
  const [value, setValue] = useState("");
  const [name, setName] = useState("");
  const deed = useDeed();
  const of = channel === null ? null : take.channels[channel];
  const units = useUnits();
  const asked = of?.asks_for ?? null;
  const reads = asked && readsIn(units, asked.shown);
  const unit = asked?.unit ?? of?.unit ?? "";
  const number = numberOrNull(value, reads?.unit ?? unit);
  const isBroken = value.trim() !== "" && number === null;

  async function save(event: FormEvent) {
    event.preventDefault();
    const done = await deed(
      () =>
        body(
          client.POST("/api/takes/{take_id}/marks", {
            params: { path: { take_id: take.id } },
            body: {
              channel,
              name: name.trim(),
              start_s: span[0],
              end_s: span[1],
              value: number === null ? null : reads ? reads.toSi(number) : number,
              unit: number === null ? "" : unit,
            },
          }),
        ),
      "Marked.",
      (made) => body(client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: made.id } } })),
    );
    if (done) onDone();
  }

  return (
    <form className="record-bar is-marking" onSubmit={(event) => void save(event)}>
      <span>
        {of ? <b>{of.name}</b> : "All channels"} from {plotTime(span[0], span[1] - span[0])} to{" "}
        {plotTime(span[1], span[1] - span[0])} was truly
      </span>
      <Form.Control
        autoFocus
        size="sm"
        aria-label="True value"
        inputMode="decimal"
        isInvalid={isBroken}
        value={value}
        onChange={(event) => setValue(event.target.value)}
      />
      <span>{reads?.unit ?? unit}</span>
      <Form.Control
        size="sm"
        className="record-name"
        aria-label="Note"
        placeholder="note"
        maxLength={120}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" size="sm" disabled={isBroken || (value.trim() === "" && name.trim() === "")}>
        Mark it
      </Button>
      <Button size="sm" variant="outline-primary" onClick={onDone}>
        Cancel
      </Button>
    </form>
  );
}
