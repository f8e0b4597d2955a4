import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import InputGroup from "react-bootstrap/InputGroup";
import type { Input } from "./inputs";
import { useReads } from "./shown";
import { numberOrNull } from "./typed";

interface Props {
  input: Input;
  value: number[];
  onChange: (value: number[]) => void;
  problem?: string | undefined;
}

/** A list of numbers, one a lane, with spaces between. */
export function NumbersInput({ input, value, onChange, problem }: Props) {
  const id = useId();
  const reads = useReads(input.shown);
  const [typed, setTyped] = useState<string | null>(null);
  const rendered = value.map((si) => String(Number(reads.fromSi(si).toFixed(reads.decimals)))).join("  ");
  const outside = value.some(
    (si) => (input.low !== null && si < input.low) || (input.high !== null && si > input.high),
  );
  const broken = typed !== null && numbers(typed) === null;

  function change(text: string) {
    setTyped(text);
    const told = numbers(text);
    if (told) onChange(told.map(reads.toSi));
  }

  const span = `each from ${reads.fromSi(input.low ?? 0)} to ${reads.fromSi(input.high ?? 0)}`;
  const wrong = broken ? "numbers with spaces between" : (problem ?? (outside ? span : undefined));
  return (
    <Form.Group controlId={id} className="quantity wide">
      <Form.Label>{input.label}</Form.Label>
      <InputGroup size="sm" hasValidation>
        <Form.Control
          type="text"
          autoComplete="off"
          value={typed ?? rendered}
          isInvalid={Boolean(wrong)}
          aria-describedby={input.help || wrong ? `${id}-hint` : undefined}
          onChange={(event) => change(event.target.value)}
          onBlur={() => setTyped(null)}
        />
        {reads.unit && <InputGroup.Text>{reads.unit}</InputGroup.Text>}
      </InputGroup>
      {(wrong ?? input.help) && (
        <div id={`${id}-hint`} className={wrong ? "field-problem" : "field-hint"}>
          {wrong ?? input.help}
        </div>
      )}
    </Form.Group>
  );
}

/** Numbers with spaces or semicolons between; null when something is none. */
function numbers(text: string): number[] | null {
  const found = text
    .split(/[\s;]+/)
    .filter((part) => part !== "")
    .map((part) => numberOrNull(part));
  return found.every((one) => one !== null) ? found : null;
}
