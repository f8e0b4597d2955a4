import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import InputGroup from "react-bootstrap/InputGroup";
import { type Shown, readsIn } from "./shown";
import { numberOrNull, typingProblem } from "./typed";
import { type Quantity, decimalsOf, display, useUnits } from "./units";

interface Props {
  label: string;
  /** SI value; null shows an empty field. */
  value: number | null;
  onChange: (si: number | null) => void;
  quantity?: Quantity;
  /** How it is read, as the server describes it; decides the decimals too. */
  shown?: Shown;
  /** For quantities that are the same in every system: the unit shown and what one of it is in SI. */
  unit?: string;
  perUnit?: number;
  decimals?: number;
  hint?: string;
  problem?: string;
  placeholder?: string;
}

/** A number with its unit beside it. Types freely; reports SI as soon as what stands there is a number. */
export function QuantityInput({
  label,
  value,
  onChange,
  quantity,
  shown: described,
  unit = "",
  perUnit = 1,
  decimals = 3,
  hint,
  problem,
  placeholder,
}: Props) {
  const system = useUnits();
  const id = useId();
  const reads = described && readsIn(system, described);
  const shown = reads
    ? reads
    : quantity
      ? display(system, quantity)
      : { unit, fromSi: (si: number) => si / perUnit, toSi: (typed: number) => typed * perUnit };
  const places = reads ? reads.decimals : quantity ? decimalsOf(system, quantity, decimals) : decimals;
  const rendered = value === null ? "" : String(Number(shown.fromSi(value).toFixed(places)));
  const [typed, setTyped] = useState<string | null>(null);
  const text = typed ?? rendered;
  const broken = typed === null ? undefined : typingProblem(typed, shown.unit);

  function change(next: string) {
    setTyped(next);
    if (next.trim() === "") onChange(null);
    const number = numberOrNull(next, shown.unit);
    if (number !== null) onChange(shown.toSi(number));
  }

  const wrong = broken ?? problem;
  return (
    <Form.Group controlId={id} className="quantity">
      <Form.Label>{label}</Form.Label>
      <InputGroup size="sm" hasValidation>
        <Form.Control
          type="text"
          inputMode="decimal"
          autoComplete="off"
          value={text}
          placeholder={placeholder}
          isInvalid={Boolean(wrong)}
          aria-describedby={hint || wrong ? `${id}-hint` : undefined}
          onChange={(event) => change(event.target.value)}
          onBlur={() => setTyped(null)}
        />
        {shown.unit && <InputGroup.Text>{shown.unit}</InputGroup.Text>}
      </InputGroup>
      {(wrong ?? hint) && (
        <div id={`${id}-hint`} className={wrong ? "field-problem" : "field-hint"}>
          {wrong ?? hint}
        </div>
      )}
    </Form.Group>
  );
}
