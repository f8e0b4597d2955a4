import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import type { Input } from "../units/inputs";

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
  const number = Number(shown.replace(",", "."));
  const isWrong =
    shown.trim() === "" ||
    !Number.isFinite(number) ||
    (input.low !== null && number < input.low) ||
    (input.high !== null && number > input.high);
  return (
    <span className="setting">
      <label htmlFor={id} title={`${input.label}${input.help ? `: ${input.help}` : ""}`}>
        {input.name}
      </label>
      <Form.Control
        id={id}
        size="sm"
        inputMode="decimal"
        isInvalid={isWrong}
        value={shown}
        onChange={(event) => {
          setTyped(event.target.value);
          const next = Number(event.target.value.replace(",", "."));
          const fits =
            event.target.value.trim() !== "" &&
            Number.isFinite(next) &&
            (input.low === null || next >= input.low) &&
            (input.high === null || next <= input.high);
          if (fits) onChange(input.form === "whole" ? Math.round(next) : next);
        }}
        onBlur={() => setTyped(null)}
      />
    </span>
  );
}
