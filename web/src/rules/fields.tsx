import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import { numberOrNull } from "../units/typed";

interface TextProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  wide?: boolean;
  mono?: boolean;
  hideLabel?: boolean;
}

/** A text that counts when the field is left or Enter is pressed: half a word is no rule. */
export function FieldText({ label, value, onChange, wide, mono, hideLabel }: TextProps) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const settle = () => {
    if (typed !== null && typed !== value) onChange(typed);
    setTyped(null);
  };
  return (
    <Form.Group controlId={id} className={`quantity ${wide ? "wide" : ""}`}>
      <Form.Label visuallyHidden={hideLabel ?? false}>{label}</Form.Label>
      <Form.Control
        size="sm"
        className={mono ? "is-mono" : ""}
        maxLength={400}
        autoComplete="off"
        spellCheck={false}
        value={typed ?? value}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={settle}
        onKeyDown={(event) => event.key === "Enter" && settle()}
      />
    </Form.Group>
  );
}

interface SecondsProps {
  label: string;
  value: number | null;
  onChange: (seconds: number | null) => void;
  placeholder?: string;
  hideLabel?: boolean;
}

/** A time in seconds; empty is none. */
export function Seconds({ label, value, onChange, placeholder = "", hideLabel }: SecondsProps) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const number = typed === null ? value : numberOrNull(typed, "s");
  const isWrong = typed !== null && typed.trim() !== "" && (number === null || number < 0);
  return (
    <Form.Group controlId={id} className="quantity">
      <Form.Label visuallyHidden={hideLabel ?? false}>{label}</Form.Label>
      <div className="input-group input-group-sm">
        <Form.Control
          size="sm"
          inputMode="decimal"
          autoComplete="off"
          placeholder={placeholder}
          isInvalid={isWrong}
          value={typed ?? (value === null ? "" : String(value))}
          onChange={(event) => {
            const text = event.target.value;
            setTyped(text);
            const next = numberOrNull(text, "s");
            if (text.trim() === "") onChange(null);
            else if (next !== null && next >= 0) onChange(next);
          }}
          onBlur={() => setTyped(null)}
        />
        <span className="input-group-text">s</span>
      </div>
    </Form.Group>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  words: string[];
  onChange: (word: string) => void;
  said?: (word: string) => string;
  hideLabel?: boolean;
}

/** One of some words. */
export function WordChoice({ label, value, words, onChange, said = (word) => word, hideLabel }: ChoiceProps) {
  const id = useId();
  return (
    <Form.Group controlId={id} className="quantity">
      <Form.Label visuallyHidden={hideLabel ?? false}>{label}</Form.Label>
      <Form.Select size="sm" value={value} onChange={(event) => onChange(event.target.value)}>
        {!words.includes(value) && <option value={value}>{value ? `${value}?` : "choose"}</option>}
        {words.map((word) => (
          <option key={word} value={word}>
            {said(word)}
          </option>
        ))}
      </Form.Select>
    </Form.Group>
  );
}

/** Yes or no. */
export function Tick({ label, value, onChange }: { label: string; value: boolean; onChange: (is: boolean) => void }) {
  const id = useId();
  return <Form.Check id={id} label={label} checked={value} onChange={(event) => onChange(event.target.checked)} />;
}
