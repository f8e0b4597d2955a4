import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Bench, Recording } from "../api/queries";
import { useDeed } from "../shell/useDeed";
import { readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import { numberOrNull } from "../units/typed";

interface Props {
  kind: Bench["digests"][number];
  recording: Recording;
  range: [number, number] | null;
  /** The reading in hand, s. */
  at: number | null;
}

/** What a person knows to be true, of what is in view or of the reading in hand. */
export function MarkTrue({ kind, recording, range, at }: Props) {
  const [given, setGiven] = useState<Record<string, string>>({});
  const units = useUnits();
  const deed = useDeed();
  const [start_s, end_s] = range ?? [at ?? 0, at ?? 0];
  const wanted = kind.marks.flatMap((one) => {
    const typed = given[one.name]?.trim() ?? "";
    return typed === "" ? [] : [{ one, number: numberOrNull(typed, readsIn(units, one.shown).unit) }];
  });
  const isBroken = wanted.some(({ number }) => number === null);

  async function save(event: FormEvent) {
    event.preventDefault();
    const path = { params: { path: { take_id: recording.take_id } } };
    const done = await deed(
      async () => {
        const made = [];
        for (const { one, number } of wanted) {
          if (number === null) continue;
          const value = readsIn(units, one.shown).toSi(number);
          const mark = { name: one.name, start_s, end_s, value, unit: one.unit };
          made.push(await body(client.POST("/api/takes/{take_id}/marks", { ...path, body: mark })));
        }
        return made;
      },
      "What is true there is marked.",
      async (made) => {
        for (const mark of made)
          await body(client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: mark.id } } }));
      },
    );
    if (done) setGiven({});
  }

  return (
    <form className="mark-true" aria-label="What is known to be true" onSubmit={(event) => void save(event)}>
      <span>
        {range ? "All that is in view" : at === null ? "The reading in hand" : `The reading at ${grouped(at, 1)} s`} was
        truly
      </span>
      {kind.marks.map((one) => (
        <label key={one.name}>
          {one.label}{" "}
          <Form.Control
            size="sm"
            inputMode="decimal"
            aria-label={one.name}
            value={given[one.name] ?? ""}
            onChange={(event) => setGiven({ ...given, [one.name]: event.target.value })}
          />{" "}
          {readsIn(units, one.shown).unit}
        </label>
      ))}
      <Button
        type="submit"
        size="sm"
        variant="outline-primary"
        disabled={isBroken || wanted.length === 0 || (!range && at === null)}
      >
        Mark it
      </Button>
    </form>
  );
}
