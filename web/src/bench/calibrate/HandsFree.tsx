import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { type Schemas, body, client } from "../../api/client";
import { type CalibrationKind, type Sensor, useRefresh } from "../../api/queries";
import { FromAfar } from "../../line/FromAfar";
import { HeardLine } from "../../line/HeardLine";
import { useNotices } from "../../shell/Notices";
import { grouped } from "../../units/units";

type Seen = Schemas["SeenOut"];

const EVERY_MS = 250;

interface Props {
  sensor: Sensor;
  kind: CalibrationKind;
  /** The recording that was made, with its marks. */
  onDone: (recordingId: number) => void;
  onHide: () => void;
}

/** Both hands on the thing: the page sees what is held, counts it, and says what is next. */
export function HandsFree({ sensor, kind, onDone, onHide }: Props) {
  return (
    <Modal show fullscreen onHide={onHide} aria-labelledby="hands-free" dialogClassName="hands-free">
      <Modal.Header closeButton>
        <Modal.Title id="hands-free">
          {sensor.name}: {kind.label.toLowerCase()}, hands free
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <HeardLine rigId={sensor.rig_id} hint="from then on nothing has to be touched but the thing itself">
          {(line) => <Holding sensor={sensor} kind={kind} line={line} onDone={onDone} onHide={onHide} />}
        </HeardLine>
      </Modal.Body>
    </Modal>
  );
}

function Holding({ sensor, kind, line, onDone, onHide }: Props & { line: Schemas["LineOut"] }) {
  const [fromS, setFromS] = useState<number | null>(null);
  const [trouble, setTrouble] = useState("");
  const begun = useRef(false);
  const over = useRef(false);
  const refresh = useRefresh();
  const notices = useNotices();
  const rig = { params: { path: { rig_id: sensor.rig_id } } };
  const path = { sensor_id: sensor.id, kind: kind.name };

  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    const name = `${sensor.name}, ${kind.label.toLowerCase()}`;
    const conditions = { light: "", notes: "", height_mm: null, battery_v: null };
    async function begin() {
      // Nothing is recorded of a line that it cannot be seen on.
      await body(
        client.GET("/api/sensors/{sensor_id}/guides/{kind}", {
          params: { path, query: { from_axis_s: line.axis_s } },
        }),
      );
      if (line.recording) return line;
      return body(client.POST("/api/rigs/{rig_id}/line/record", { ...rig, body: { name, conditions } }));
    }
    void begin().then(
      (now) => setFromS(now.axis_s),
      (error: unknown) => setTrouble(problem(error)),
    );
  });

  const seen = useQuery({
    queryKey: ["guide", sensor.id, kind.name, fromS],
    enabled: fromS !== null,
    refetchInterval: EVERY_MS,
    gcTime: 0,
    retry: false,
    queryFn: () =>
      body(
        client.GET("/api/sensors/{sensor_id}/guides/{kind}", {
          params: { path, query: { from_axis_s: fromS ?? 0 } },
        }),
      ),
  });
  const isDone = seen.data?.is_done === true;

  async function finish() {
    if (over.current || fromS === null) return;
    over.current = true;
    try {
      const made = await body(
        client.POST("/api/sensors/{sensor_id}/guides/{kind}", { params: { path }, body: { from_axis_s: fromS } }),
      );
      await refresh();
      onDone(made.recording_id);
    } catch (error) {
      over.current = false;
      notices.failed(error);
    }
  }

  async function leave() {
    over.current = true;
    if (fromS === null) return onHide();
    try {
      await body(client.POST("/api/rigs/{rig_id}/line/stop", rig));
      await refresh();
    } catch (error) {
      notices.failed(error);
    }
    onHide();
  }

  // Nobody has a hand free for a key once the last one is held.
  const finishNow = useRef(finish);
  useEffect(() => {
    finishNow.current = finish;
  });
  useEffect(() => {
    if (!isDone) return;
    const timer = window.setTimeout(() => void finishNow.current(), 1200);
    return () => window.clearTimeout(timer);
  }, [isDone]);

  if (trouble || seen.isError) {
    return (
      <FromAfar says="It cannot be seen.">
        <p role="alert">{trouble || problem(seen.error)}</p>
        <Button variant="outline-primary" onClick={() => void leave()}>
          Leave it
        </Button>
      </FromAfar>
    );
  }
  if (!seen.data) return <p className="hands-says">Listening …</p>;
  const count = seen.data.done.length;
  const total = count + seen.data.missing.length;
  return (
    <div className="hands">
      <p className="hands-refused" role="alert">
        {seen.data.refused}
      </p>
      <p className="hands-says" role="status" aria-live="assertive">
        {seen.data.says}
      </p>
      <Stillness seen={seen.data} />
      <ol className="hands-poses" aria-label="What is held">
        {[...seen.data.done.map((one) => one.name), ...seen.data.missing].map((name) => {
          const done = seen.data.done.some((one) => one.name === name);
          return (
            <li key={name} className={done ? "is-done" : name === seen.data.now ? "is-now" : ""}>
              <span aria-hidden="true">{done ? "✓" : name === seen.data.now ? "●" : "○"}</span> {name}
            </li>
          );
        })}
      </ol>
      <p className="hands-foot">
        <span>
          {count} of {total} held
        </span>
        <Button variant="outline-primary" disabled={count === 0} onClick={() => void finish()}>
          Take what is held so far
        </Button>
        <Button variant="outline-primary" onClick={() => void leave()}>
          Stop without marks
        </Button>
      </p>
    </div>
  );
}

/** How long it has been still, against how long it has to be. */
function Stillness({ seen }: { seen: Seen }) {
  const share = Math.min(1, seen.still_s / seen.needs_s);
  const isStill = seen.still_s > 0;
  return (
    <div className="hands-still">
      <div className="hands-bar" aria-hidden="true">
        <div style={{ width: `${100 * share}%` }} className={seen.now ? "" : "is-moving"} />
      </div>
      <span>
        {isStill ? `still for ${grouped(seen.still_s, 1)} s of ${grouped(seen.needs_s, 1)} s` : "moving"}
        {seen.now && `, ${seen.now}`}
      </span>
    </div>
  );
}

const problem = (error: unknown) => (error instanceof Error ? error.message : "What is held cannot be seen just now.");
