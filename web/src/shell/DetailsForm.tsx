import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNotices } from "./Notices";

type Details = Record<string, string>;

interface Props {
  /** Such as “The sensor”. */
  title: string;
  /** Such as “sensor”: sets the fields' ids apart and says what is put away. */
  thing: string;
  fields: { name: string; label: string; placeholder: string; longest: number }[];
  /** What is kept now; a field called `name` may not be empty. */
  kept: Details;
  write: (next: Details) => Promise<void>;
  /** Puts it away, and returns how to bring it back. */
  putAway: () => Promise<() => Promise<void>>;
}

/** What something is called and where it is; and putting it away, to be undone. */
export function DetailsForm({ title, thing, fields, kept, write, putAway }: Props) {
  const [details, setDetails] = useState(kept);
  const notices = useNotices();
  const changed = fields.some(({ name }) => (details[name] ?? "").trim() !== kept[name]);

  async function save(event: FormEvent) {
    event.preventDefault();
    try {
      await write(details);
      notices.done(`${title} is changed.`, () => write(kept));
    } catch (error) {
      notices.failed(error);
    }
  }

  async function away() {
    try {
      const undo = await putAway();
      notices.done(`${kept["name"]} is put away.`, undo);
    } catch (error) {
      notices.failed(error);
    }
  }

  return (
    <Form className="panel" aria-label={title} onSubmit={(event) => void save(event)}>
      <h2>{title}</h2>
      <div className="fields">
        {fields.map(({ name, label, placeholder, longest }) => (
          <Form.Group key={name} controlId={`${thing}-${name}`} className={`quantity ${longest > 120 ? "wide" : "name"}`}>
            <Form.Label>{label}</Form.Label>
            <Form.Control
              size="sm"
              maxLength={longest}
              required={name === "name"}
              value={details[name] ?? ""}
              placeholder={placeholder}
              onChange={(event) => setDetails({ ...details, [name]: event.target.value })}
            />
          </Form.Group>
        ))}
        <div className="panel-actions inline">
          <Button type="submit" size="sm" disabled={!changed || (details["name"] ?? "").trim() === ""}>
            Change it
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => void away()}>
            Put the {thing} away
          </Button>
        </div>
      </div>
    </Form>
  );
}
