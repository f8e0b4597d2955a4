import { type FormEvent, useCallback, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNavigate } from "react-router";
import { type Schemas, body, client } from "../api/client";
import { type Rig, useRefresh } from "../api/queries";
import { AlreadyHere } from "../files/AlreadyHere";
import { FileDrop } from "../files/FileDrop";
import { ReadingPanel } from "../files/ReadingPanel";
import { SendingRow } from "../files/SendingRow";
import { useReading } from "../files/useReading";
import { namedAs, useSending } from "../files/useSending";
import { rate } from "../line/words";
import { Trouble } from "../shell/States";
import { QuantityInput } from "../units/QuantityInput";
import { grouped } from "../units/units";

type TakeFile = Schemas["TakeFileOut"];

/** A file of any format becomes a recording: see what is in it, say whose the channels are. */
export function BringIn({ rig, onDone }: { rig: Rig; onDone: () => void }) {
  const [file, setFile] = useState<TakeFile | null>(null);
  const sending = useSending<TakeFile>((chosen) => `/api/rigs/${rig.id}/files?${namedAs(chosen)}`, setFile);
  if (file) return <FoundInFile key={file.key} rig={rig} file={file} onDone={onDone} onAnother={() => setFile(null)} />;
  return (
    <FileDrop label="Recording file" className="panel drop" sending={sending}>
      {(choose) => (
        <>
          <p>
            Drop a file here: CSV, JSON lines, Parquet, VCD, MCAP, or any log with numbers in it. Its format is told by
            what is in it; comments, units in headers, counters and clocks are understood.
          </p>
          {sending.share === null ? (
            <p className="empty-actions">
              <Button size="sm" onClick={choose}>
                Choose a file
              </Button>
              <Button size="sm" variant="outline-primary" onClick={onDone}>
                Cancel
              </Button>
            </p>
          ) : (
            <SendingRow sending={sending} then="looking into it" />
          )}
          {sending.error !== null && <Trouble error={sending.error} />}
        </>
      )}
    </FileDrop>
  );
}

interface FoundProps {
  rig: Rig;
  file: TakeFile;
  onDone: () => void;
  onAnother: () => void;
}

function FoundInFile({ rig, file, onDone, onAnother }: FoundProps) {
  const [name, setName] = useState(file.source_name.replace(/\.[a-z0-9]+$/i, "").replace(/[-_]+/g, " "));
  const [sensors, setSensors] = useState<Record<number, number | null>>(() =>
    Object.fromEntries(file.columns.map((column) => [column.number, column.sensor_id])),
  );
  const [rateHz, setRateHz] = useState<number | null>(null);
  const [again, setAgain] = useState(false);
  const [isReading, setReading] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const navigate = useNavigate();
  const refresh = useRefresh();
  const key = { params: { path: { key: file.key } } };
  const taken = useCallback(
    (reading: TakeFile) => {
      onDone();
      void navigate(`/rigs/${rig.id}/recordings/${reading.take_id}`);
      void refresh();
    },
    [refresh, navigate, rig.id, onDone],
  );
  const state = useReading(["file", file.key], isReading, () => body(client.GET("/api/files/{key}", key)), taken);

  async function read(event: FormEvent) {
    event.preventDefault();
    setError(null);
    try {
      const chosen = Object.fromEntries(Object.entries(sensors).filter(([, sensor]) => sensor !== null)) as Record<
        string,
        number
      >;
      await body(
        client.POST("/api/files/{key}/read", {
          ...key,
          body: { name: name.trim(), sensors: chosen, rate_hz: rateHz, again },
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
        says={`${grouped(state.samples, 0)} samples so far, ${grouped(state.bad_rows, 0)} rows put aside.`}
        onStop={() => void client.DELETE("/api/files/{key}", key)}
      />
    );
  }
  const same = file.same_file[0];
  return (
    <Form className="panel" aria-label={`What “${file.source_name}” holds`} onSubmit={(event) => void read(event)}>
      <h2>
        “{file.source_name}”{" "}
        <span className="quiet">
          {file.format.toUpperCase()}, {grouped(file.size / 1024, file.size < 10_240 ? 1 : 0)} KiB
        </span>
      </h2>
      <p className="figures">
        <span>
          <b>
            {file.is_whole ? "" : "over "}
            {grouped(file.rows, 0)}
          </b>{" "}
          rows
        </span>
        <span className={file.bad_rows ? "is-bad" : ""}>
          <b>{grouped(file.bad_rows, 0)}</b> put aside
        </span>
        <span>{file.time_column ? `time from “${file.time_column}” in ${file.time_unit}` : "no time in it"}</span>
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
      <table className="file-columns">
        <thead>
          <tr>
            <th scope="col">channel</th>
            <th scope="col">unit</th>
            <th scope="col">most likely</th>
            <th scope="col">sensor</th>
          </tr>
        </thead>
        <tbody>
          {file.columns.map((column) => (
            <tr key={column.number}>
              <td>{column.name}</td>
              <td>{column.unit || "–"}</td>
              <td>{column.guess}</td>
              <td>
                <Form.Select
                  size="sm"
                  aria-label={`Sensor of ${column.name}`}
                  value={sensors[column.number] ?? ""}
                  onChange={(event) =>
                    setSensors({ ...sensors, [column.number]: event.target.value ? Number(event.target.value) : null })
                  }
                >
                  <option value="">no sensor</option>
                  {rig.sensors.map((sensor) => (
                    <option key={sensor.id} value={sensor.id}>
                      {sensor.name}
                    </option>
                  ))}
                </Form.Select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {error !== null && <Trouble error={error} />}
      <div className="panel-actions">
        <Button
          type="submit"
          size="sm"
          disabled={name.trim() === "" || (file.needs_rate && !rateHz) || (same !== undefined && !again)}
        >
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
