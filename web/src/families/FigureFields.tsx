import Form from "react-bootstrap/Form";
import { QuantityInput } from "../units/QuantityInput";
import { figuresOf, unitOf, withValue } from "./figures";

type Document = Record<string, unknown>;

interface Props {
  document: Document;
  onChange: (next: Document) => void;
  canRename: boolean;
}

/** Name, words and every figure of a description as fields. */
export function FigureFields({ document, onChange, canRename }: Props) {
  const set = (path: (string | number)[], value: unknown) => onChange(withValue(document, path, value) as Document);
  const text = (key: string, label: string, disabled = false) => (
    <Form.Group controlId={`family-${key}`} className="quantity wide">
      <Form.Label>{label}</Form.Label>
      <Form.Control size="sm" disabled={disabled} value={typeof document[key] === "string" ? document[key] : ""} onChange={(event) => set([key], event.target.value)} />
    </Form.Group>
  );
  return (
    <>
      <div className="fields">
        {text("name", "Name in files: a–z, 0–9, _", !canRename)}
        {text("label", "What people call it")}
        {text("what", "What it is")}
        {"recognise" in document && text("recognise", "How to tell it")}
      </div>
      <div className="fields figure-fields">
        {figuresOf(document).map((figure) => (
          <QuantityInput
            key={figure.path.join(".")}
            label={figure.title}
            unit={unitOf(figure.path)}
            decimals={12}
            value={figure.value}
            hint={figure.source}
            onChange={(value) => value !== null && value !== figure.value && set(figure.path, { value, source: "my datasheet" })}
          />
        ))}
      </div>
    </>
  );
}
