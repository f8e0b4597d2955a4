import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { QuantityInput } from "../units/QuantityInput";
import { FigureFields } from "./FigureFields";
import { TakeOff } from "./TakeOff";
import { TextField } from "./TextField";
import { type Document, isRecord, recordsAt, textAt, valueAt, withValue } from "./document";
import type { Schema } from "./schema";

const MINE = "my datasheet";

interface Props {
  document: Document;
  schema: Schema;
  onChange: (next: Document) => void;
}

/** The board's converter: its bits, its figures, and what full scale may be compared with. */
export function ConverterPart({ document, schema, onChange }: Props) {
  const converter = document["converter"];
  const put = (path: (string | number)[], value: unknown) =>
    onChange(withValue(document, ["converter", ...path], value) as Document);
  if (!isRecord(converter)) {
    return (
      <section aria-label="Converter">
        <h3>Converter</h3>
        <p className="quiet">This board reads no volts.</p>
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => put([], usual(Number(valueAt(document, ["logic_v", "value"])) || 5))}
        >
          It has a converter
        </Button>
      </section>
    );
  }
  const references = recordsAt(converter, "references");
  const bits = converter["bits"];
  return (
    <section aria-label="Converter">
      <h3>Converter</h3>
      <div className="part-cards">
        <fieldset className="part-card">
          <legend className="visually-hidden">Converter</legend>
          <div className="fields">
            <QuantityInput
              label="Resolves"
              unit="bits"
              decimals={0}
              value={typeof bits === "number" ? bits : null}
              onChange={(next) => next !== null && put(["bits"], Math.round(next))}
            />
          </div>
          <FigureFields
            document={document}
            schema={schema}
            onChange={onChange}
            part={["converter"]}
            without={["references"]}
          />
        </fieldset>
        {references.map((reference, index) => (
          <fieldset key={index} className="part-card">
            <legend className="visually-hidden">Reference {textAt(reference, ["name"])}</legend>
            <div className="fields">
              <TextField
                id={`reference-${index}-name`}
                label="Reference"
                className="wide"
                value={textAt(reference, ["name"])}
                onChange={(name) => put(["references", index, "name"], name)}
              />
              <Form.Group controlId={`reference-${index}-from`} className="quantity">
                <Form.Label>Comes from</Form.Label>
                <Form.Select
                  size="sm"
                  value={reference["follows_supply"] === true ? "supply" : textAt(reference, ["rail"]) || "inside"}
                  onChange={(event) => put(["references", index], from(reference, event.target.value))}
                >
                  <option value="supply">the board’s supply</option>
                  <option value="inside">inside</option>
                  {recordsAt(document, "rails")
                    .filter((rail) => rail["kind"] !== "ground")
                    .map((rail) => (
                      <option key={textAt(rail, ["name"])} value={textAt(rail, ["name"])}>
                        {textAt(rail, ["name"])}, by a wire
                      </option>
                    ))}
                </Form.Select>
              </Form.Group>
            </div>
            <FigureFields
              document={document}
              schema={schema}
              onChange={onChange}
              part={["converter", "references", index]}
            />
            {references.length > 1 && (
              <TakeOff
                what={textAt(reference, ["name"])}
                words="Remove reference"
                onClick={() =>
                  put(
                    ["references"],
                    references.filter((_, other) => other !== index),
                  )
                }
              />
            )}
          </fieldset>
        ))}
      </div>
      <Button
        size="sm"
        variant="outline-primary"
        onClick={() =>
          put(
            ["references"],
            [...references, { name: `reference ${references.length + 1}`, volts: { value: 2.5, source: MINE } }],
          )
        }
      >
        Another reference
      </Button>
    </section>
  );
}

/** A reference that comes from somewhere else; what is at its default is left out. */
function from(reference: Record<string, unknown>, where: string): unknown {
  const isRail = where !== "supply" && where !== "inside";
  const rail = withValue(reference, ["rail"], isRail ? where : undefined);
  return withValue(rail, ["follows_supply"], where === "supply" ? true : undefined);
}

function usual(supplyVolts: number) {
  return {
    bits: 10,
    references: [{ name: "supply", volts: { value: supplyVolts, source: MINE }, follows_supply: true }],
    conversion_s: { value: 0.0001, source: MINE },
    source_ohm: { value: 10_000, source: MINE },
  };
}
