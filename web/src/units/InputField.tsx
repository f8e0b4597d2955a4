import { useId } from "react";
import Form from "react-bootstrap/Form";
import type { Input, Value } from "./inputs";
import { NumbersInput } from "./NumbersInput";
import { QuantityInput } from "./QuantityInput";
import { useReads } from "./shown";
import { grouped } from "./units";

interface Props {
  input: Input;
  value: Value;
  /** What is used instead of a value that is left out. */
  taken?: number | null;
  onChange: (value: Value) => void;
  problem?: string | undefined;
}

/** One described input: a number with its unit, one of a few words, yes or no, or a short text. */
export function InputField({ input, value, taken = null, onChange, problem }: Props) {
  const id = useId();
  const reads = useReads(input.shown);
  if (input.form === "switch") {
    return (
      <Form.Check
        id={id}
        className="mt-2"
        checked={value === true}
        onChange={(event) => onChange(event.target.checked)}
        label={input.help ? `${input.label} (${input.help})` : input.label}
      />
    );
  }
  if (input.choices.length > 0) {
    return <Choices input={input} value={value} onChange={onChange} />;
  }
  if (input.form === "words") {
    return (
      <Form.Group controlId={id} className="quantity wide">
        <Form.Label>{input.label}</Form.Label>
        <Form.Control
          size="sm"
          maxLength={400}
          value={String(value ?? "")}
          onChange={(event) => onChange(event.target.value)}
        />
        {input.help && <div className="field-hint">{input.help}</div>}
      </Form.Group>
    );
  }
  if (input.form === "numbers") {
    return (
      <NumbersInput input={input} value={Array.isArray(value) ? value : []} onChange={onChange} problem={problem} />
    );
  }
  const number = typeof value === "number" ? value : null;
  const bound = (si: number) =>
    grouped(reads.fromSi(si), 0).length > 7 ? String(reads.fromSi(si)) : Number(reads.fromSi(si).toPrecision(6));
  const isOutside =
    number !== null && ((input.low !== null && number < input.low) || (input.high !== null && number > input.high));
  const span = `${bound(input.low ?? 0)} to ${bound(input.high ?? 0)}`;
  return (
    <QuantityInput
      label={input.label}
      shown={input.shown}
      value={number ?? taken}
      hint={value === null && input.from_rig ? input.from_rig : input.help || undefined}
      problem={problem ?? (isOutside ? span : undefined)}
      onChange={(next) => (next !== null || input.from_rig) && onChange(next)}
    />
  );
}

function Choices({ input, value, onChange }: Pick<Props, "input" | "value" | "onChange">) {
  const id = useId();
  const groups = [...new Set(input.choices.map((one) => one.group))];
  const longest = Math.max(...input.choices.map((one) => one.label.length));
  const known = input.choices.some((one) => one.value === String(value));
  const option = (one: Input["choices"][number]) => (
    <option key={one.value} value={one.value}>
      {one.label}
    </option>
  );
  return (
    <Form.Group controlId={id} className={`quantity ${groups.length > 1 || longest > 14 ? "wide" : ""}`}>
      <Form.Label>{input.label}</Form.Label>
      <Form.Select
        size="sm"
        value={String(value)}
        onChange={(event) => onChange(input.form === "whole" ? Number(event.target.value) : event.target.value)}
      >
        {!known && <option value={String(value)}>{value === null ? "" : String(value)}</option>}
        {groups.map((group) =>
          group === "" ? (
            input.choices.filter((one) => one.group === "").map(option)
          ) : (
            <optgroup key={group} label={group}>
              {input.choices.filter((one) => one.group === group).map(option)}
            </optgroup>
          ),
        )}
      </Form.Select>
      {input.help && <div className="field-hint">{input.help}</div>}
    </Form.Group>
  );
}
