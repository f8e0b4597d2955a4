import { useState } from "react";
import Form from "react-bootstrap/Form";

interface Props {
  id: string;
  label: string;
  value: string;
  onChange: (next: string) => void;
  disabled?: boolean;
  className?: string;
  rows?: number;
}

/** A line, or some lines, of text with its label. */
export function TextField({ id, label, value, onChange, disabled = false, className = "", rows }: Props) {
  return (
    <Form.Group controlId={id} className={`quantity ${className}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control
        size="sm"
        {...(rows ? { as: "textarea" as const, rows } : {})}
        disabled={disabled}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Form.Group>
  );
}

/** Several short texts in one line, with commas between. What is being typed stays as typed. */
export function ListField({
  value,
  onChange,
  separator = ",",
  ...rest
}: Omit<Props, "value" | "onChange"> & { value: string[]; onChange: (next: string[]) => void; separator?: string }) {
  const [typed, setTyped] = useState<string | null>(null);
  const joined = value.join(separator === "," ? ", " : separator);
  return (
    <div onBlur={() => setTyped(null)} className="list-field">
      <TextField
        {...rest}
        value={typed ?? joined}
        onChange={(next) => {
          setTyped(next);
          onChange(
            next
              .split(separator)
              .map((one) => one.trim())
              .filter(Boolean),
          );
        }}
      />
    </div>
  );
}
