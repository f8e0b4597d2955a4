import { type FormEvent, useCallback, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../../api/client";
import type { Schemas } from "../../api/client";
import type { Air, Sensor } from "../../api/queries";
import { AlreadyHere } from "../../files/AlreadyHere";
import { ReadingPanel } from "../../files/ReadingPanel";
import { useReading } from "../../files/useReading";
import { AirFields } from "../../rig/AirFields";
import { Trouble } from "../../shell/States";
import { QuantityInput } from "../../units/QuantityInput";
import { grouped } from "../../units/units";

type LogImport = Schemas["ImportOut"];
type Unit = NonNullable<Schemas["ReadIn"]["time_unit"]>;
type Separator = NonNullable<Schemas["ShapeIn"]["separator"]>;
type Decimal = NonNullable<Schemas["ShapeIn"]["decimal"]>;

const SEPARATORS: [Separator, string][] = [
  ["comma", "comma"],
  ["semicolon", "semicolon"],
  ["tab", "tab"],
  ["bar", "bar |"],
  ["space", "spaces"],
];
const UNITS: [Unit, string][] = [
  ["us", "µs"],
  ["ms", "ms"],
  ["s", "s"],
];

interface Props {
  sensor: Sensor;
  log: LogImport;
  onLog: (log: LogImport) => void;
  onDone: (recordingId: number) => void;
  onAnother: () => void;
}

/** How a log is read, shown on its first rows; everything guessed can be overruled. */
export function LogMapping({ sensor, log, onLog, onDone, onAnother }: Props) {
  const shape = log.shape;
  const [name, setName] = useState(log.source_name.replace(/\.[a-z]+$/i, "").replace(/[-_]+/g, " "));
  const [air, setAir] = useState<Air>(sensor.rig_air);
  const [timeColumn, setTimeColumn] = useState(shape.time_column);
  const [timeUnit, setTimeUnit] = useState(shape.time_unit as Unit);
  const [echoColumn, setEchoColumn] = useState(shape.echo_column);
  const [echoUnit, setEchoUnit] = useState(shape.echo_unit as Unit);
  const [intervalS, setIntervalS] = useState<number | null>(0.05);
  const [again, setAgain] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const [reading, setReading] = useState(false);
  const key = { params: { path: { key: log.key } } };

  const taken = useCallback((done: LogImport) => done.recording_id !== null && onDone(done.recording_id), [onDone]);
  const state = useReading(["import", log.key], reading, () => body(client.GET("/api/imports/{key}", key)), taken);

  async function reshape(change: Schemas["ShapeIn"]) {
    try {
      const next = await body(
        client.POST("/api/imports/{key}/shape", {
          ...key,
          body: { separator: shape.separator as Separator, decimal: shape.decimal as Decimal, ...change },
        }),
      );
      onLog(next);
      setTimeColumn(next.shape.time_column);
      setEchoColumn(next.shape.echo_column);
      setTimeUnit(next.shape.time_unit as Unit);
      setEchoUnit(next.shape.echo_unit as Unit);
    } catch (failure) {
      setError(failure);
    }
  }

  async function read(event: FormEvent) {
    event.preventDefault();
    if (echoColumn === null) return;
    setError(null);
    try {
      await body(
        client.POST("/api/imports/{key}/read", {
          ...key,
          body: {
            sensor_id: sensor.id,
            name,
            air,
            separator: shape.separator,
            decimal: shape.decimal,
            header_line: shape.header_line,
            width: shape.columns.length,
            time_column: timeColumn,
            time_unit: timeUnit,
            echo_column: echoColumn,
            echo_unit: echoUnit,
            interval_s: intervalS ?? 0.05,
            again,
          },
        }),
      );
      setReading(true);
    } catch (failure) {
      setError(failure);
    }
  }

  if (state?.state === "reading" || state?.state === "done") {
    return (
      <ReadingPanel
        sourceName={log.source_name}
        share={state.bytes_read / Math.max(1, log.size)}
        says={`${grouped(state.samples, 0)} readings so far, ${grouped(state.bad_lines, 0)} lines put aside.`}
        onStop={() => void client.DELETE("/api/imports/{key}", key)}
      />
    );
  }

  const same = log.same_file[0];
  const ready = name.trim() !== "" && echoColumn !== null && echoColumn !== timeColumn && (!same || again);
  return (
    <Form className="panel mapping" onSubmit={(event) => void read(event)}>
      <h2>
        How “{log.source_name}” is read{" "}
        <span className="quiet">{grouped(log.size / 1024, log.size < 10_240 ? 1 : 0)} KiB</span>
      </h2>
      {state?.state === "cancelled" && (
        <p className="bench-note">Stopped. Nothing of it was kept; choose the file again.</p>
      )}
      {state?.state === "failed" && (
        <p className="bench-note warning" role="alert">
          {state.problem}
        </p>
      )}
      {same && <AlreadyHere as={`“${same.name}” of ${same.sensor_name}`} again={again} onAgain={setAgain} />}
      <div className="fields">
        <Choice
          label="Separator"
          value={shape.separator as Separator}
          options={SEPARATORS}
          onChange={(separator) => void reshape({ separator })}
        />
        <Choice
          label="Decimal mark"
          value={shape.decimal as Decimal}
          options={[
            ["point", "point 1.5"],
            ["comma", "comma 1,5"],
          ]}
          onChange={(decimal) => void reshape({ decimal })}
        />
        <Choice
          label="Time"
          value={String(timeColumn ?? "")}
          options={[["", "no time column"], ...columnOptions(shape.columns)]}
          onChange={(value) => setTimeColumn(value === "" ? null : Number(value))}
        />
        {timeColumn === null ? (
          <QuantityInput
            label="One reading every"
            unit="ms"
            perUnit={0.001}
            decimals={3}
            value={intervalS}
            onChange={setIntervalS}
          />
        ) : (
          <Choice label="Time in" value={timeUnit} options={UNITS} onChange={setTimeUnit} />
        )}
        <Choice
          label="Echo"
          value={String(echoColumn ?? "")}
          options={[
            ...(echoColumn === null ? [["", "choose"] as [string, string]] : []),
            ...columnOptions(shape.columns),
          ]}
          onChange={(value) => setEchoColumn(value === "" ? null : Number(value))}
        />
        <Choice label="Echo in" value={echoUnit} options={UNITS} onChange={setEchoUnit} />
      </div>
      <Preview log={log} timeColumn={timeColumn} echoColumn={echoColumn} />
      <div className="fields">
        <Form.Group controlId="recording-name" className="quantity wide">
          <Form.Label>Name of the recording</Form.Label>
          <Form.Control
            size="sm"
            maxLength={120}
            required
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Form.Group>
      </div>
      <AirFields air={air} onChange={setAir} />
      {error !== null && <Trouble error={error} />}
      <div className="panel-actions">
        <Button type="submit" disabled={!ready}>
          Read it
        </Button>
        <Button variant="outline-primary" onClick={onAnother}>
          Another file
        </Button>
      </div>
    </Form>
  );
}

function columnOptions(columns: string[]): [string, string][] {
  return columns.map((name, index) => [String(index), name]);
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: [T, string][];
  onChange: (value: T) => void;
}

function Choice<T extends string>({ label, value, options, onChange }: ChoiceProps<T>) {
  return (
    <Form.Group controlId={`choice-${label}`} className="quantity">
      <Form.Label>{label}</Form.Label>
      <Form.Select size="sm" value={value} onChange={(event) => onChange(event.target.value as T)}>
        {options.map(([option, words]) => (
          <option key={option} value={option}>
            {words}
          </option>
        ))}
      </Form.Select>
    </Form.Group>
  );
}

function Preview({
  log,
  timeColumn,
  echoColumn,
}: {
  log: LogImport;
  timeColumn: number | null;
  echoColumn: number | null;
}) {
  const role = (index: number) => (index === timeColumn ? "time" : index === echoColumn ? "echo" : "left out");
  return (
    <div className="preview">
      <table>
        <thead>
          <tr>
            <th scope="col">line</th>
            {log.shape.columns.map((name, index) => (
              <th scope="col" key={index} className={role(index) === "left out" ? "is-left-out" : ""}>
                {name} <span className="role">{role(index)}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {log.rows.slice(0, 6).map((row) => (
            <tr key={row.line}>
              <td className="figure quiet">{row.line}</td>
              {row.cells.map((cell, index) => (
                <td key={index} className={role(index) === "left out" ? "is-left-out" : ""}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
