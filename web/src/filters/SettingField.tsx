import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import type { Input } from "../units/inputs";
import { numberIn } from "./words";

interface Props {
  input: Input;
  value: number;
  onChange: (value: number) => void;
}

/** A small number in a row of them; what cannot be is kept to itself and marked. */
export function SettingField({ input, value, onChange }: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const shown = typed ?? String(Number(value.toPrecision(4)));
  return (
    <span className="setting">
      <label htmlFor={id} title={`${input.label}${input.help ? `: ${input.help}` : ""}`}>
        {input.name}
      </label>
      <Form.Control
        id={id}
        size="sm"
        inputMode="decimal"
        isInvalid={numberIn(input, shown) === null}
        value={shown}
        onChange={(event) => {
          setTyped(event.target.value);
          const next = numberIn(input, event.target.value);
          if (next !== null) onChange(next);
        }}
        onBlur={() => setTyped(null)}
      />
    </span>
  );
}
