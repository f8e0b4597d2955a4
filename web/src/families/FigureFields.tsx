import { useState } from "react";
import Form from "react-bootstrap/Form";
import { FigureField } from "./FigureField";
import { type Document, type Path, isWithin, valueAt, withValue } from "./document";
import { figuresOf, unitOf } from "./figures";
import { type FigurePlace, type Schema, optionalFigures } from "./schema";

interface Props {
  document: Document;
  schema: Schema;
  onChange: (next: Document) => void;
  /** The part of the description whose figures these are. */
  part: Path;
  /** Fields of that part that are shown elsewhere. */
  without?: string[];
}

/** The figures of a part of a description, each with its source; those left out can be added. */
export function FigureFields({ document, schema, onChange, part, without = [] }: Props) {
  const [adding, setAdding] = useState<FigurePlace | null>(null);
  const isElsewhere = (path: Path) => without.some((field) => isWithin(path, [...part, field]));
  const figures = figuresOf(valueAt(document, part), part).filter((figure) => !isElsewhere(figure.path));
  const optional = optionalFigures(schema, document, part).filter((place) => !isElsewhere(place.path));
  const missing = optional.filter((place) => !place.isThere);
  const put = (path: Path, value: unknown) => onChange(withValue(document, path, value) as Document);
  const canGo = new Set(optional.map((place) => keyOf(place.path)));

  return (
    <div className="figure-fields">
      {[...figures, ...(adding ? [{ ...adding, value: null, source: "my datasheet" }] : [])].map((figure) => (
        <FigureField
          key={keyOf(figure.path)}
          path={figure.path}
          title={figure.title}
          value={figure.value}
          source={figure.source}
          onChange={(value, source) => {
            put(figure.path, { value, source });
            if (figure.value === null) setAdding(null);
          }}
          onRemove={
            canGo.has(keyOf(figure.path))
              ? () => (figure.value === null ? setAdding(null) : put(figure.path, undefined))
              : undefined
          }
        />
      ))}
      {missing.length > 0 && !adding && (
        <Form.Group className="quantity" controlId={`add-figure-${keyOf(part)}`}>
          <Form.Label>Another figure</Form.Label>
          <Form.Select
            size="sm"
            value=""
            onChange={(event) => setAdding(missing.find((place) => keyOf(place.path) === event.target.value) ?? null)}
          >
            <option value="">choose one</option>
            {missing.map((place) => (
              <option key={keyOf(place.path)} value={keyOf(place.path)}>
                {place.title}, {unitOf(place.path)}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      )}
    </div>
  );
}

function keyOf(path: Path): string {
  return path.join(".");
}
