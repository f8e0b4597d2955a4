import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { type Schemas, body, client } from "../api/client";
import { useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";
import { useKey } from "../shell/keys";
import { readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import type { Column, Line } from "./frames";
import { numberOrNull } from "../units/typed";

interface Props {
  line: Line;
  /** The channel a mark belongs to. */
  channel: Column | null;
  onMarked: (mark: { channel: number | null; from_s: number; to_s: number }) => void;
}

interface Pending {
  fromS: number;
  value: string;
  name: string;
}

/** One key to record, one to mark a known true value. */
export function RecordBar({ line, channel, onMarked }: Props) {
  const notices = useNotices();
  const refresh = useRefresh();
  const [last, setLast] = useState<Schemas["TakeOut"] | null>(null);
  const [name, setName] = useState("");
  const [pending, setPending] = useState<Pending | null>(null);
  const [light, setLight] = useState("");
  const [notes, setNotes] = useState("");
  const [more, setMore] = useState(false);
  const path = { params: { path: { rig_id: line.rig_id } } };
  const recording = line.recording;
  const units = useUnits();
  const asked = channel?.asks_for ?? null;
  const reads = asked && readsIn(units, asked.shown);
  const unit = asked?.unit ?? channel?.unit ?? "";

  async function start() {
    try {
      const called =
        name.trim() ||
        `heard ${new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" })}`;
      await body(
        client.POST("/api/rigs/{rig_id}/line/record", {
          ...path,
          body: { name: called, conditions: { light, notes, height_mm: null, battery_v: null } },
        }),
      );
      setLast(null);
    } catch (error) {
      notices.failed(error);
    }
  }

  async function stop() {
    try {
      setPending(null);
      setLast(await body(client.POST("/api/rigs/{rig_id}/line/stop", path)));
      setName("");
      await refresh();
    } catch (error) {
      notices.failed(error);
    }
  }

  async function mark(event?: FormEvent) {
    event?.preventDefault();
    if (!pending) return;
    const value = numberOrNull(pending.value, reads?.unit ?? unit);
    if (value === null && pending.value.trim() !== "") return;
    const marked = { channel: channel?.channel ?? null, from_s: pending.fromS, to_s: line.axis_s };
    try {
      await body(
        client.POST("/api/rigs/{rig_id}/line/marks", {
          ...path,
          body: {
            channel: marked.channel,
            from_axis_s: marked.from_s,
            to_axis_s: marked.to_s,
            value: value === null ? null : reads ? reads.toSi(value) : value,
            unit: value === null ? "" : unit,
            name: pending.name,
          },
        }),
      );
      onMarked(marked);
      setPending(null);
    } catch (error) {
      notices.failed(error);
    }
  }

  useKey("c", () => void (recording ? stop() : start()));
  useKey("m", recording ? () => setPending({ fromS: line.axis_s, value: "", name: "" }) : null);
  useKey("Escape", pending ? () => setPending(null) : null);

  if (pending && recording) {
    return (
      <form className="record-bar is-marking" onSubmit={(event) => void mark(event)}>
        <span>
          Hold it still. Marking <b>{channel ? channel.name : "all channels"}</b> since{" "}
          {grouped(line.axis_s - pending.fromS, 1)} s:
        </span>
        <Form.Control
          autoFocus
          size="sm"
          aria-label="True value"
          inputMode="decimal"
          placeholder="true value"
          value={pending.value}
          onChange={(event) => setPending({ ...pending, value: event.target.value })}
        />
        <span>{reads?.unit ?? unit}</span>
        <Form.Control
          size="sm"
          aria-label="Note"
          placeholder="note"
          value={pending.name}
          maxLength={120}
          onChange={(event) => setPending({ ...pending, name: event.target.value })}
        />
        <Button type="submit" size="sm">
          Mark it
        </Button>
        <Button size="sm" variant="outline-primary" onClick={() => setPending(null)}>
          Cancel
        </Button>
      </form>
    );
  }
  return (
    <div className="record-bar">
      {recording ? (
        <>
          <Button variant="danger" onClick={() => void stop()}>
            <span className="record-dot is-square" aria-hidden="true" /> Stop <kbd>C</kbd>
          </Button>
          <Button variant="outline-primary" onClick={() => setPending({ fromS: line.axis_s, value: "", name: "" })}>
            Mark a true value <kbd>M</kbd>
          </Button>
          <span className="record-says" role="status">
            “{recording.name}”: <b>{grouped(recording.samples, 0)}</b> samples,
            {` ${grouped(recording.written_samples, 0)} on disk`}
          </span>
          {recording.trouble && <span className="is-bad">{recording.trouble}</span>}
        </>
      ) : (
        <>
          <Button disabled={!line.shape || line.state === "ended"} onClick={() => void start()}>
            <span className="record-dot" aria-hidden="true" /> Record <kbd>C</kbd>
          </Button>
          <Form.Control
            size="sm"
            className="record-name"
            aria-label="Name of the recording"
            placeholder="name of the recording"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
          />
          <button type="button" className="disclosure" aria-expanded={more} onClick={() => setMore(!more)}>
            <span aria-hidden="true">{more ? "▾" : "▸"}</span> conditions
          </button>
          {more && (
            <>
              <Form.Control
                size="sm"
                className="record-name"
                aria-label="Light"
                placeholder="light, such as lamps on"
                value={light}
                maxLength={200}
                onChange={(event) => setLight(event.target.value)}
              />
              <Form.Control
                size="sm"
                className="record-name"
                aria-label="Notes"
                placeholder="notes"
                value={notes}
                maxLength={2000}
                onChange={(event) => setNotes(event.target.value)}
              />
            </>
          )}
          {last && (
            <span className="record-says" role="status">
              Kept as “{last.name}”, {grouped(last.samples, 0)} samples.{" "}
              <Link to={`/rigs/${line.rig_id}/recordings/${last.id}`}>Open it</Link>
            </span>
          )}
        </>
      )}
    </div>
  );
}
