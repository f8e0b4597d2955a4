import { useQuery } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import ProgressBar from "react-bootstrap/ProgressBar";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import type { Sensor } from "../../api/queries";
import { Empty, Trouble } from "../../shell/States";
import { LogMapping } from "./LogMapping";
import { type LogImport, sendLog } from "./upload";

interface Props {
  sensor: Sensor;
  onClose: (() => void) | null;
  onDone: (recordingId: number) => void;
}

/** From a file to a recording: choose it, check how it is read, have it read. */
export function ImportPanel({ sensor, onClose, onDone }: Props) {
  const [log, setLog] = useState<LogImport | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [over, setOver] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const sending = useRef<(() => void) | null>(null);
  const examples = useQuery({ queryKey: ["examples"], queryFn: () => body(client.GET("/api/examples")) });

  async function take(file: File | undefined) {
    if (!file) return;
    setError(null);
    setShare(0);
    const { done, cancel } = sendLog(file, setShare);
    sending.current = cancel;
    try {
      setLog(await done);
    } catch (failure) {
      if (!(failure instanceof DOMException)) setError(failure);
    } finally {
      setShare(null);
    }
  }

  async function takeExample(name: string) {
    try {
      const answer = await fetch(`/api/examples/${name}`);
      await take(new File([await answer.blob()], name));
    } catch (failure) {
      setError(failure);
    }
  }

  function drop(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    void take(event.dataTransfer.files[0]);
  }

  if (log) {
    return (
      <LogMapping
        key={log.key}
        sensor={sensor}
        log={log}
        onLog={setLog}
        onDone={onDone}
        onAnother={() => {
          void client.DELETE("/api/imports/{key}", { params: { path: { key: log.key } } });
          setLog(null);
        }}
      />
    );
  }
  return (
    <div
      className={`drop ${over ? "is-over" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <Empty title={`Bring in a log of ${sensor.name}’s echo times.`}>
        <p>
          Print <code>time,echo</code> once per ping on your board, keep the lines in a file, and drop the file here. Comma,
          semicolon, tab or spaces; with a header or without. You see how it is read before anything is kept.
        </p>
        <input
          ref={chooser}
          type="file"
          className="visually-hidden"
          aria-label="Log file"
          accept=".csv,.txt,.log,.tsv,text/*"
          onChange={(event) => {
            void take(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
        {share === null ? (
          <p className="empty-actions">
            <Button onClick={() => chooser.current?.click()}>Choose a file</Button>
            <Link className="btn btn-outline-primary" to={`/rigs/${sensor.rig_id}/line?sensor=${sensor.id}`}>
              Listen live <kbd>L</kbd>
            </Link>
            {onClose && (
              <Button variant="outline-primary" onClick={onClose}>
                Not now
              </Button>
            )}
          </p>
        ) : (
          <div className="progress-row">
            <ProgressBar now={100 * share} label="sending" aria-label="Sending the file" />
            <Button size="sm" variant="outline-primary" onClick={() => sending.current?.()}>
              Stop
            </Button>
          </div>
        )}
        {examples.data?.map((example) => (
          <p key={example.name} className="quiet">
            No hardware at hand?{" "}
            <button type="button" className="link" onClick={() => void takeExample(example.name)}>
              Take the example {example.name}
            </button>
            . {example.description}
          </p>
        ))}
      </Empty>
      {error !== null && <Trouble error={error} />}
    </div>
  );
}
