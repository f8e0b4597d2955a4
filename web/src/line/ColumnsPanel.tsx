import { useState } from "react";
import Form from "react-bootstrap/Form";
import { type Schemas, body, client } from "../api/client";
import type { Rig } from "../api/queries";
import { useNotices } from "../shell/Notices";
import type { Column, Line } from "./frames";

type ShapeIn = Schemas["LineShapeIn"];
type TimeUnit = NonNullable<ShapeIn["time_unit"]>;
type Quantity = Schemas["ColumnChange"]["quantity"];

const QUANTITIES: Quantity[] = [
  "echo time",
  "distance",
  "acceleration",
  "rotation rate",
  "angle",
  "pulse",
  "pulse changes",
  "pulse count",
  "pulse gap",
  "speed",
  "revolutions",
  "temperature",
  "humidity",
  "voltage",
  "converter counts",
  "number",
];
const MANNERS: { value: string; label: string; shape: ShapeIn }[] = [
  { value: "separated comma", label: "commas", shape: { kind: "separated", separator: "comma" } },
  { value: "separated semicolon", label: "semicolons", shape: { kind: "separated", separator: "semicolon" } },
  {
    value: "separated semicolon comma",
    label: "semicolons, decimal comma",
    shape: { kind: "separated", separator: "semicolon", decimal: "comma" },
  },
  { value: "separated tab", label: "tabs", shape: { kind: "separated", separator: "tab" } },
  { value: "separated bar", label: "bars |", shape: { kind: "separated", separator: "bar" } },
  { value: "separated space", label: "blanks", shape: { kind: "separated", separator: "space" } },
  { value: "labelled", label: "labels, such as x: 1", shape: { kind: "labelled" } },
  { value: "words", label: "numbers among words", shape: { kind: "words" } },
  { value: "json", label: "JSON", shape: { kind: "json" } },
];

/** Which value of a line is what, and whose. Corrections hold at once and are kept for the rig. */
export function ColumnsPanel({ rig, line }: { rig: Rig; line: Line }) {
  const notices = useNotices();
  const shape = line.shape;
  if (!shape) return <p className="quiet">As soon as some lines have come, their columns stand here.</p>;
  const path = { params: { path: { rig_id: rig.id } } };

  async function put(next: ShapeIn) {
    try {
      await body(client.PUT("/api/rigs/{rig_id}/line/shape", { ...path, body: next }));
    } catch (error) {
      notices.failed(error);
    }
  }

  function change(position: number, part: Partial<Column>, timeUnit = shape?.time_unit as TimeUnit) {
    if (!shape) return;
    const columns = shape.columns.map((column) => ({
      name: column.name,
      unit: column.unit,
      quantity: column.quantity as Quantity,
      is_used: column.is_used,
      sensor_id: column.sensor_id,
      ...(column.position === position ? (part as Partial<Schemas["ColumnChange"]>) : {}),
    }));
    const time =
      "is_time" in part
        ? part.is_time
          ? position
          : null
        : (shape.columns.find((column) => column.is_time)?.position ?? null);
    void put({ columns, time_position: time, time_unit: timeUnit });
  }

  const manner = [shape.kind, shape.separator, shape.decimal === "comma" ? "comma" : ""].filter(Boolean).join(" ");
  return (
    <div className="columns-panel">
      <Form.Group controlId="manner" className="manner">
        <Form.Label>Values are told apart by</Form.Label>
        <Form.Select
          size="sm"
          value={manner}
          onChange={(event) => {
            const found = MANNERS.find((one) => one.value === event.target.value);
            void put(found ? found.shape : { kind: "learn" });
          }}
        >
          {!MANNERS.some((one) => one.value === manner) && <option value={manner}>{shape.says}</option>}
          {MANNERS.map((one) => (
            <option key={one.value} value={one.value}>
              {one.label}
            </option>
          ))}
          <option value="learn">learn it again</option>
        </Form.Select>
      </Form.Group>
      <ul className="columns">
        {shape.columns.map((column) => (
          <ColumnRow
            key={`${column.position} ${column.name} ${column.unit}`}
            column={column}
            rig={rig}
            timeUnit={shape.time_unit as TimeUnit}
            onTimeUnit={(unit) => change(column.position, {}, unit)}
            onChange={(part) => change(column.position, part)}
          />
        ))}
      </ul>
    </div>
  );
}

const TIME_UNITS: TimeUnit[] = ["µs", "ms", "s", "ns", "min", "clock"];

interface RowProps {
  column: Column;
  rig: Rig;
  timeUnit: TimeUnit;
  onTimeUnit: (unit: TimeUnit) => void;
  onChange: (part: Partial<Column>) => void;
}

function ColumnRow({ column, rig, timeUnit, onTimeUnit, onChange }: RowProps) {
  const [name, setName] = useState(column.name);
  const [unit, setUnit] = useState(column.unit);
  const [open, setOpen] = useState(false);
  const id = `column-${column.position}`;
  const settle = () => {
    if (name.trim() && (name !== column.name || unit !== column.unit)) onChange({ name: name.trim(), unit });
  };
  return (
    <li className={column.is_used ? "" : "is-unused"}>
      <div className="column-line">
        <button type="button" className="disclosure" aria-expanded={open} onClick={() => setOpen(!open)}>
          <span aria-hidden="true">{open ? "▾" : "▸"}</span> {column.name}
          {column.unit && <span className="quiet"> {column.unit}</span>}
        </button>
        {column.is_time ? (
          <span className="quiet">the board’s time</span>
        ) : (
          <Form.Select
            size="sm"
            aria-label={`Sensor of ${column.name}`}
            value={column.sensor_id ?? ""}
            onChange={(event) => onChange({ sensor_id: event.target.value ? Number(event.target.value) : null })}
          >
            <option value="">no sensor</option>
            {rig.sensors.map((sensor) => (
              <option key={sensor.id} value={sensor.id}>
                {sensor.name}
              </option>
            ))}
          </Form.Select>
        )}
      </div>
      {open && (
        <div className="column-more">
          <Form.Control
            id={`${id}-name`}
            size="sm"
            aria-label="Name"
            value={name}
            maxLength={60}
            onChange={(event) => setName(event.target.value)}
            onBlur={settle}
          />
          {column.is_time ? (
            <Form.Select
              size="sm"
              aria-label="Unit of time"
              value={timeUnit}
              onChange={(event) => onTimeUnit(event.target.value as TimeUnit)}
            >
              {TIME_UNITS.map((one) => (
                <option key={one} value={one}>
                  {one === "clock" ? "clock text" : one}
                </option>
              ))}
            </Form.Select>
          ) : (
            <Form.Control
              id={`${id}-unit`}
              size="sm"
              aria-label="Unit"
              placeholder="unit"
              value={unit}
              maxLength={20}
              onChange={(event) => setUnit(event.target.value)}
              onBlur={settle}
            />
          )}
          <Form.Select
            size="sm"
            aria-label="What it is"
            value={column.is_time ? "time" : column.quantity}
            onChange={(event) =>
              onChange(
                event.target.value === "time"
                  ? { is_time: true }
                  : { quantity: event.target.value, ...(column.is_time ? { is_time: false } : {}) },
              )
            }
          >
            <option value="time">time of the board</option>
            {QUANTITIES.map((quantity) => (
              <option key={quantity} value={quantity}>
                {quantity}
              </option>
            ))}
          </Form.Select>
          <Form.Check
            id={`${id}-used`}
            checked={column.is_used}
            label="keep"
            onChange={(event) => onChange({ is_used: event.target.checked })}
          />
        </div>
      )}
    </li>
  );
}
