import Form from "react-bootstrap/Form";

/** What there is to say to a sign-off. */
export function NoteField({
  note,
  onChange,
  placeholder,
}: {
  note: string;
  onChange: (note: string) => void;
  placeholder: string;
}) {
  return (
    <Form.Group controlId="sign-note" className="quantity wide">
      <Form.Label>Note</Form.Label>
      <Form.Control
        size="sm"
        maxLength={2000}
        value={note}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
    </Form.Group>
  );
}
