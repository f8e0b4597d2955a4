import { AsideTable } from "../takes/AsideTable";
import { type FormEvent, useCallback, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Air } from "../api/queries";
import { rate } from "../line/words";
import { AirFields } from "../rig/AirFields";
import { Trouble } from "../shell/States";
import { QuantityInput } from "../units/QuantityInput";
import { grouped } from "../units/units";
import { AlreadyHere } from "./AlreadyHere";
import { ColumnUses } from "./ColumnUses";
import { FirstLines } from "./FirstLines";
import { type Look, ReadOtherwise } from "./ReadOtherwise";
import { ReadingPanel } from "./ReadingPanel";
import { type LogFile, type Use, twice, guessedUse } from "./columns";
import { useReading } from "./useReading";

interface Props {
  file: LogFile;
  air: Air;
  /** Whose bench it is brought in on; 0 for the whole rig. */
  sensorId: number;
  onFile: (file: LogFile) => void;
  onDone: (file: LogFile) => void;
  onAnother: () => void;
}

/** How a file is read, on its own first lines; what is guessed can be overruled before anything is kept. */
export function FoundInFile({ file, air: rigAir, sensorId, onFile, onDone, onAnother }: Props) {
  const [name, setName] = useState(file.source_name.replace(/\.[a-z0-9]+$/i, "").replace(/[-_]+/g, " "));
  const [uses, setUses] = useState<Record<number, Use>>(() => usesOf(file));
  const [air, setAir] = useState(rigAir);
  const [rateHz, setRateHz] = useState<number | null>(null);
  const [look, setLook] = useState<Look>({});
  const [again, setAgain] = useState(false);
  const [isReading, setReading] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const key = { params: { path: { key: file.key } } };
  const taken = useCallback((done: LogFile) => onDone(done), [onDone]);
  const state = useReading(["file", file.key], isReading, () => body(client.GET("/api/files/{key}", key)), taken);

  async function lookAgain(next: Look) {
    setError(null);
    try {
      const found = await body(client.POST("/api/files/{key}/look", { ...key, body: next }));
      setLook(next);
      setUses(usesOf(found));
      onFile(found);
    } catch (failure) {
      setError(failure);
    }
  }

  async function read(event: FormEvent) {
    event.preventDefault();
    setError(null);
    try {
      const columns = file.columns
        .map((column) => ({ number: column.number, ...(uses[column.number] ?? guessedUse(column)) }))
        .filter((one) => one.sensor_id !== null);
      await body(
        client.POST("/api/files/{key}/read", {
          ...key,
          body: { name: name.trim(), air, columns, rate_hz: rateHz, again },
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
        sourceName={file.source_name}
        share={state.bytes_read / Math.max(1, file.size)}
        says={`${grouped(state.samples, 0)} samples so far, ${grouped(state.bad_rows, 0)} lines put aside.`}
        onStop={() => void client.DELETE("/api/files/{key}", key)}
      />
    );
  }
  const same = file.same_file[0];
  const owner = file.sensors.find((one) => one.sensor_id === sensorId);
  const isOwned = !owner || Object.values(uses).some((use) => use.sensor_id === sensorId && use.role !== "");
  const ready =
    name.trim() !== "" &&
    file.columns.length > 0 &&
    isOwned &&
    twice(file, uses).length === 0 &&
    !(file.needs_rate && !rateHz) &&
    (!same || again);
  return (
    <Form
      className="panel mapping"
      aria-label={`What “${file.source_name}” holds`}
      onSubmit={(event) => void read(event)}
    >
      <h2>
        How “{file.source_name}” is read{" "}
        <span className="quiet">
          {file.format.toUpperCase()}, {grouped(file.size / 1024, file.size < 10_240 ? 1 : 0)} KiB
        </span>
      </h2>
      <p className="figures">
        <span>
          {file.is_whole ? "" : "over "}
          <b>{grouped(file.rows, 0)}</b> rows
        </span>
        <span className={file.bad_rows ? "is-bad" : ""}>
          <b>{grouped(file.bad_rows, 0)}</b> put aside
        </span>
        {file.rate_hz !== null && (
          <span>
            <b>{rate(file.rate_hz)}</b> a second
          </span>
        )}
      </p>
      {file.notes.map((note) => (
        <p key={note} className="quiet">
          {note}
        </p>
      ))}
      {(state?.state === "failed" || state?.state === "cancelled" || (file.problem && !file.needs_rate)) && (
        <p className="bench-note warning" role="alert">
          {state?.state === "cancelled"
            ? "Stopped. Nothing of it was kept; choose the file again."
            : state?.problem || file.problem}
        </p>
      )}
      {same && <AlreadyHere as={`“${same.name}”`} again={again} onAgain={setAgain} />}
      {file.lines.length > 0 && <FirstLines file={file} />}
      <ColumnUses file={file} uses={uses} onUses={setUses} />
      {!isOwned && <p className="bench-note warning">Say which column is {owner.name}’s.</p>}
      {file.lines.length > 0 && <ReadOtherwise file={file} look={look} onLook={(next) => void lookAgain(next)} />}
      {file.aside.length > 0 && <Aside file={file} />}
      <div className="fields">
        <Form.Group controlId="file-name" className="quantity wide">
          <Form.Label>Name of the recording</Form.Label>
          <Form.Control
            size="sm"
            required
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Form.Group>
        {file.needs_rate && (
          <QuantityInput
            label="Rows a second"
            unit="Hz"
            value={rateHz}
            onChange={setRateHz}
            hint="the file holds no time"
          />
        )}
      </div>
      <details className="more-fields">
        <summary>The air it was recorded in</summary>
        <AirFields air={air} onChange={setAir} />
      </details>
      {error !== null && <Trouble error={error} />}
      <div className="panel-actions">
        <Button type="submit" size="sm" disabled={!ready}>
          Bring it in
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => {
            void client.DELETE("/api/files/{key}", key);
            onAnother();
          }}
        >
          Another file
        </Button>
      </div>
    </Form>
  );
}

const usesOf = (file: LogFile) => Object.fromEntries(file.columns.map((column) => [column.number, guessedUse(column)]));

/** The first lines that could not be read, with their reason. */
function Aside({ file }: { file: LogFile }) {
  return (
    <details className="more-fields bad-lines">
      <summary>
        {grouped(file.bad_rows, 0)} line{file.bad_rows === 1 ? "" : "s"} put aside
      </summary>
      <AsideTable lines={file.aside} />
    </details>
  );
}
