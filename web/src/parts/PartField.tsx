import Form from "react-bootstrap/Form";
import type { Schemas } from "../api/client";
import { QuantityInput } from "../units/QuantityInput";

type Input = Schemas["InputOut"];

/** One input of a parts sum: a number with its unit, one of a few words, or a short text. */
export function PartField({
  input,
  value,
  onChange,
}: {
  input: Input;
  value: number | string;
  onChange: (value: number | string) => void;
}) {
  if (typeof input.default === "number") {
    const outside =
      typeof value === "number" &&
      ((input.low !== null && value < input.low) || (input.high !== null && value > input.high));
    return (
      <QuantityInput
        label={input.label}
        unit={input.unit}
        decimals={4}
        value={Number(value)}
        hint={input.help || undefined}
        problem={outside ? `${input.low} to ${input.high}` : undefined}
        onChange={(next) => next !== null && onChange(next)}
      />
    );
  }
  const id = `part-${input.name}`;
  return (
    <Form.Group controlId={id} className={`quantity ${input.options.length > 0 ? "" : "wide"}`}>
      <Form.Label>{input.label}</Form.Label>
      {input.options.length > 0 ? (
        <Form.Select size="sm" value={String(value)} onChange={(event) => onChange(event.target.value)}>
          {input.options.map((option) => (
            <option key={option}>{option}</option>
          ))}
        </Form.Select>
      ) : (
        <Form.Control
          size="sm"
          maxLength={400}
          value={String(value)}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      {input.help && <div className="field-hint">{input.help}</div>}
    </Form.Group>
  );
}
