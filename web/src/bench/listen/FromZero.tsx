import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { body, client } from "../../api/client";
import type { Bench, Sensor } from "../../api/queries";
import { FromAfar } from "../../line/FromAfar";
import { HeardLine } from "../../line/HeardLine";
import { grouped } from "../../units/units";

const EVERY_MS = 200;

interface Props {
  sensor: Sensor;
  output: Bench["outputs"][number];
  onHide: () => void;
}

/** Zero it, move it, read it, in figures that are read from afar. */
export function FromZero({ sensor, output, onHide }: Props) {
  return (
    <Modal show fullscreen onHide={onHide} aria-labelledby="from-zero">
      <Modal.Header closeButton>
        <Modal.Title id="from-zero">
          {sensor.name}: {output.label.toLowerCase()}, from a zero
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <HeardLine rigId={sensor.rig_id}>
          {(line) => <Reading sensor={sensor} output={output} beganS={line.axis_s} />}
        </HeardLine>
      </Modal.Body>
    </Modal>
  );
}

function Reading({ sensor, output, beganS }: Omit<Props, "onHide"> & { beganS: number }) {
  const [zeroS, setZeroS] = useState(beganS);
  const path = { sensor_id: sensor.id, output: output.name };
  const read = useQuery({
    queryKey: ["read", path, zeroS],
    refetchInterval: EVERY_MS,
    gcTime: 0,
    retry: false,
    placeholderData: (before) => before,
    queryFn: () =>
      body(
        client.GET("/api/sensors/{sensor_id}/readings/{output}", {
          params: { path, query: { from_axis_s: zeroS } },
        }),
      ),
  });
  if (read.isError) {
    return (
      <FromAfar says="It cannot be read.">
        <p role="alert">{read.error.message}</p>
      </FromAfar>
    );
  }
  const step = read.data?.step;
  const axisS = read.data?.axis_s ?? zeroS;
  return (
    <div className="hands">
      <p className="hands-says" role="status">
        {!step || step.value === null ? "…" : `${step.shown} ${step.shown_unit}`}
      </p>
      <p className="from-zero-doubt">
        {step?.spread_shown && `± ${step.spread_shown} ${step.shown_unit}`}
        {step && step.status !== "ok" && <b className="is-bad"> {step.status_word}</b>}
      </p>
      <p className="from-zero-says">
        {step?.note}
        <span className="quiet"> Since zero: {grouped(Math.max(0, axisS - zeroS), 0)} s.</span>
      </p>
      <p className="hands-foot">
        <Button size="lg" autoFocus onClick={() => setZeroS(axisS)}>
          Zero <kbd>space</kbd>
        </Button>
      </p>
    </div>
  );
}
