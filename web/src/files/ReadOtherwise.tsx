import Form from "react-bootstrap/Form";
import type { Schemas } from "../api/client";
import type { LogFile } from "./columns";

export type Look = Schemas["FileLookIn"];

const SEPARATORS = { comma: "comma", semicolon: "semicolon", tab: "tab", bar: "bar |", space: "blanks" };
const UNITS = ["µs", "ms", "s", "min", "ns"] as const;

/** How lines are taken apart and which column is the time, for when that was guessed wrong. */
export function ReadOtherwise({ file, look, onLook }: { file: LogFile; look: Look; onLook: (look: Look) => void }) {
  const names = [...new Set([...(file.time_column ? [file.time_column] : []), ...file.columns.map((one) => one.name)])];
  return (
    <details className="more-fields">
      <summary>Is it read wrongly?</summary>
      <div className="fields">
        {file.separator && (
          <>
            <Choice
              label="Separator"
              value={file.separator}
              options={Object.entries(SEPARATORS)}
              onChange={(value) => onLook({ ...look, separator: value as NonNullable<Look["separator"]> })}
            />
            <Choice
              label="Decimal mark"
              value={file.decimal}
              options={[
                ["point", "point 1.5"],
                ["comma", "comma 1,5"],
              ]}
              onChange={(value) => onLook({ ...look, decimal: value as NonNullable<Look["decimal"]> })}
            />
          </>
        )}
        <Choice
          label="Time"
          value={file.time_column}
          options={[["", "no time column"], ...names.map((name): [string, string] => [name, name])]}
          onChange={(time) => onLook({ ...look, time })}
        />
        {file.time_column && (
          <Choice
            label="Time in"
            value={file.time_unit}
            options={UNITS.map((unit): [string, string] => [unit, unit])}
            onChange={(value) => onLook({ ...look, time_unit: value as NonNullable<Look["time_unit"]> })}
          />
        )}
      </div>
    </details>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: [string, string][];
  onChange: (value: string) => void;
}

function Choice({ label, value, options, onChange }: ChoiceProps) {
  return (
    <Form.Group controlId={`read-${label}`} className="quantity">
      <Form.Label>{label}</Form.Label>
      <Form.Select size="sm" value={value} onChange={(event) => onChange(event.target.value)}>
        {!options.some(([option]) => option === value) && <option value={value}>{value}</option>}
        {options.map(([option, words]) => (
          <option key={option} value={option}>
            {words}
          </option>
        ))}
      </Form.Select>
    </Form.Group>
  );
}
