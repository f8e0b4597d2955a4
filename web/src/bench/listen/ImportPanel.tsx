import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { type Schemas, body, client } from "../../api/client";
import type { Sensor } from "../../api/queries";
import { FileDrop } from "../../files/FileDrop";
import { SendingRow } from "../../files/SendingRow";
import { namedAs, useSending } from "../../files/useSending";
import { Empty, Trouble } from "../../shell/States";
import { LogMapping } from "./LogMapping";

type LogImport = Schemas["ImportOut"];

interface Props {
  sensor: Sensor;
  onClose: (() => void) | null;
  onDone: (recordingId: number) => void;
}

/** From a file to a recording: choose it, check how it is read, have it read. */
export function ImportPanel({ sensor, onClose, onDone }: Props) {
  const [log, setLog] = useState<LogImport | null>(null);
  const sending = useSending<LogImport>((file) => `/api/imports?${namedAs(file)}`, setLog);
  const examples = useQuery({ queryKey: ["examples"], queryFn: () => body(client.GET("/api/examples")) });

  async function takeExample(name: string) {
    try {
      const answer = await fetch(`/api/examples/${name}`);
      await sending.send(new File([await answer.blob()], name));
    } catch (failure) {
      sending.setError(failure);
    }
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
    <FileDrop label="Log file" accept=".csv,.txt,.log,.tsv,text/*" className="drop" sending={sending}>
      {(choose) => (
        <>
          <Empty title={`Bring in a log of ${sensor.name}’s echo times.`}>
            <p>
              Print <code>time,echo</code> once per ping on your board, keep the lines in a file, and drop the file
              here. Comma, semicolon, tab or spaces; with a header or without. You see how it is read before anything is
              kept.
            </p>
            {sending.share === null ? (
              <p className="empty-actions">
                <Button onClick={choose}>Choose a file</Button>
                <Link className="btn btn-outline-primary" to={`/rigs/${sensor.rig_id}/line?sensor=${sensor.id}`}>
                  Listen live <kbd>L</kbd>
                </Link>
                {onClose && (
                  <Button variant="outline-primary" onClick={onClose}>
                    Cancel
                  </Button>
                )}
              </p>
            ) : (
              <SendingRow sending={sending} then="looking into it" />
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
          {sending.error !== null && <Trouble error={sending.error} />}
        </>
      )}
    </FileDrop>
  );
}
