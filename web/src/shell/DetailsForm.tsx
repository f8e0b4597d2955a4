import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNavigate } from "react-router";
import { useDeed } from "./useDeed";

type Details = Record<string, string>;

interface Props {
  /** Such as “The sensor”. */
  title: string;
  /** Such as “sensor”: sets the fields' ids apart and says what is removed. */
  thing: string;
  fields: { name: string; label: string; placeholder: string; longest: number }[];
  /** What is kept now; a field called `name` may not be empty. */
  kept: Details;
  write: (next: Details) => Promise<unknown>;
  putAway: () => Promise<unknown>;
  bringBack: () => Promise<unknown>;
  /** Where to go when it is removed. */
  home: string;
}

/** What something is called and where it is; and putting it away, to be undone. */
export function DetailsForm({ title, thing, fields, kept, write, putAway, bringBack, home }: Props) {
  const [details, setDetails] = useState(kept);
  const navigate = useNavigate();
  const deed = useDeed();
  const changed = fields.some(({ name }) => (details[name] ?? "").trim() !== kept[name]);

  function save(event: FormEvent) {
    event.preventDefault();
    void deed(
      () => write(details),
      `${title} is changed.`,
      () => write(kept),
    );
  }

  function away() {
    void deed(putAway, `${kept["name"]} is removed.`, bringBack, () => navigate(home));
  }

  return (
    <Form className="panel" aria-label={title} onSubmit={save}>
      <h2>{title}</h2>
      <div className="fields">
        {fields.map(({ name, label, placeholder, longest }) => (
          <Form.Group
            key={name}
            controlId={`${thing}-${name}`}
            className={`quantity ${longest > 120 ? "wide" : "name"}`}
          >
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
            Keep it
          </Button>
          <Button size="sm" variant="outline-primary" onClick={away}>
            Remove the {thing}
          </Button>
        </div>
      </div>
    </Form>
  );
}
