import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { QuantityInput } from "../units/QuantityInput";
import { ConverterPart } from "./ConverterPart";
import { FigureFields } from "./FigureFields";
import { PinMatrix } from "./PinMatrix";
import { TextField } from "./TextField";
import { TakeOff } from "./TakeOff";
import { type Document, recordsAt, textAt, withValue } from "./document";
import type { Schema } from "./schema";

const RAILS = [
  { kind: "regulated", words: "given by the board" },
  { kind: "input", words: "fed by you" },
  { kind: "ground", words: "ground" },
];

interface Props {
  document: Document;
  schema: Schema;
  onChange: (next: Document) => void;
}

/** Pins, what they bear, rails, converter and clock of a board. */
export function BoardParts(props: Props) {
  const { document, onChange } = props;
  return (
    <>
      <PinMatrix document={document} onChange={onChange} />
      <section aria-label="What the pins bear">
        <h3>What the pins bear</h3>
        <div className="part-cards">
          {recordsAt(document, "pin_classes").map((one, index) => (
            <fieldset key={index} className="part-card">
              <legend>{String(one["name"])}</legend>
              <FigureFields {...props} part={["pin_classes", index]} />
            </fieldset>
          ))}
        </div>
      </section>
      <Rails {...props} />
      <ConverterPart {...props} />
      <section aria-label="The rest">
        <h3>Levels, clock and the rest</h3>
        <FigureFields {...props} part={[]} without={["pins", "pin_classes", "rails", "converter"]} />
      </section>
    </>
  );
}

function Rails({ document, schema, onChange }: Props) {
  const rails = recordsAt(document, "rails");
  const put = (index: number, field: string, value: unknown) =>
    onChange(withValue(document, ["rails", index, field], value) as Document);
  const all = (next: Record<string, unknown>[]) => onChange({ ...document, rails: next });
  return (
    <section aria-label="Rails">
      <h3>Rails</h3>
      <div className="part-cards">
        {rails.map((rail, index) => (
          <fieldset key={index} className="part-card">
            <legend className="visually-hidden">Rail {String(rail["name"])}</legend>
            <div className="fields">
              <TextField
                id={`rail-${index}-name`}
                label="Name"
                value={textAt(rail, ["name"])}
                onChange={(name) => put(index, "name", name)}
              />
              <Form.Group controlId={`rail-${index}-kind`} className="quantity">
                <Form.Label>Is</Form.Label>
                <Form.Select
                  size="sm"
                  value={textAt(rail, ["kind"])}
                  onChange={(event) => put(index, "kind", event.target.value)}
                >
                  {RAILS.map(({ kind, words }) => (
                    <option key={kind} value={kind}>
                      {words}
                    </option>
                  ))}
                </Form.Select>
              </Form.Group>
              {rail["kind"] !== "ground" && (
                <QuantityInput
                  label="Within"
                  unit="± %"
                  perUnit={0.01}
                  decimals={3}
                  value={Number(rail["tolerance"] ?? 0)}
                  onChange={(next) => next !== null && put(index, "tolerance", next)}
                />
              )}
            </div>
            <FigureFields
              document={document}
              schema={schema}
              onChange={onChange}
              part={["rails", index]}
              without={rail["kind"] === "ground" ? ["volts", "limit_a"] : []}
            />
            <TakeOff
              what={String(rail["name"])}
              words="Remove rail"
              onClick={() => all(rails.filter((_, other) => other !== index))}
            />
          </fieldset>
        ))}
      </div>
      <Button
        size="sm"
        variant="outline-primary"
        onClick={() =>
          all([
            ...rails,
            {
              name: `RAIL${rails.length + 1}`,
              kind: "regulated",
              volts: { value: 5, source: "my datasheet" },
              tolerance: 0.05,
            },
          ])
        }
      >
        Another rail
      </Button>
    </section>
  );
}
