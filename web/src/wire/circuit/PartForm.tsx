import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Part, type Wiring, useWiringChanges } from "../queries";
import { partValue } from "../plan/partValue";
import { PlaceSelect } from "./PlaceSelect";
import { PART_KINDS, kindOf } from "./partKinds";
import { freeName } from "./places";

/** A new part: its kind, its figures, and what each of its legs goes to. */
export function PartForm({ wiring, onDone }: { wiring: Wiring; onDone: () => void }) {
  const [kind, setKind] = useState<Part["kind"]>("resistor");
  const [ends, setEnds] = useState<Record<string, string>>({});
  const [texts, setTexts] = useState<Record<string, string>>({});
  const changes = useWiringChanges(wiring);
  const { label, letter, legs, figures } = kindOf(kind);
  const taken = [...wiring.joints, ...wiring.pins.map((pin) => pin.name), ...wiring.rails.map((rail) => rail.name)];
  const newJoint = freeName("J", [...taken, ...Object.values(ends).filter((end) => !taken.includes(end))]);
  const values = figures.map((one) => ({ ...one, value: partValue(texts[one.field] ?? "") }));
  const isWhole =
    Object.keys(legs).every((leg) => ends[leg]) &&
    values.every((one) => (one.isNeeded ? one.value !== null : !texts[one.field] || one.value !== null));

  async function submit(event: FormEvent) {
    event.preventDefault();
    const key = freeName(
      letter,
      wiring.parts.map((part) => part.key),
    );
    const joints = Object.values(ends).filter((end) => !places.has(end));
    const figuresOf = Object.fromEntries(
      values.filter((one) => one.value !== null).map((one) => [one.field, one.value]),
    );
    const part = {
      key,
      kind,
      ends: Object.fromEntries(Object.keys(legs).map((leg) => [leg, ends[leg] ?? ""])),
      tolerance: kind === "capacitor" ? 0.2 : 0.05,
      ...figuresOf,
    } as Part;
    const isKept = await changes.alter(`${key} is on the bench.`, (now) => ({
      joints: [...now.joints, ...joints],
      parts: [...now.parts, part],
    }));
    if (isKept) onDone();
  }
  const places = new Set([...taken, ...wiring.places.map((place) => place.name)]);

  return (
    <form className="part-form" aria-label="New part" onSubmit={(event) => void submit(event)}>
      <Form.Select
        size="sm"
        aria-label="Kind of part"
        value={kind}
        onChange={(event) => {
          setKind(event.target.value as Part["kind"]);
          setEnds({});
          setTexts({});
        }}
      >
        {PART_KINDS.map((one) => (
          <option key={one.kind} value={one.kind}>
            {one.label}
          </option>
        ))}
      </Form.Select>
      {values.map((one) => (
        <label key={one.field} className="part-figure">
          {one.label}
          <Form.Control
            size="sm"
            value={texts[one.field] ?? ""}
            placeholder={one.usual}
            isInvalid={Boolean(texts[one.field]) && one.value === null}
            onChange={(event) => setTexts({ ...texts, [one.field]: event.target.value })}
          />
        </label>
      ))}
      {Object.entries(legs).map(([leg, words]) => (
        <label key={leg} className="part-leg">
          {words}
          <PlaceSelect
            wiring={wiring}
            label={`${label}, ${words}`}
            value={ends[leg] ?? ""}
            newJoint={places.has(ends[leg] ?? "") || !ends[leg] ? newJoint : ends[leg]}
            onChange={(place) => setEnds({ ...ends, [leg]: place })}
          />
        </label>
      ))}
      <span className="panel-actions">
        <Button size="sm" type="submit" disabled={!isWhole}>
          Put it in
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Cancel
        </Button>
      </span>
    </form>
  );
}
