import Modal from "react-bootstrap/Modal";
import type { AirHeard, Step } from "../api/queries";
import { TrustWords } from "../bench/TrustWords";
import { LivePicture } from "../bench/pictures/Picture";
import type { Trust } from "../bench/trust";
import { useKey } from "../shell/keys";
import { measuredIn, readsIn } from "../units/shown";
import { useUnits } from "../units/units";
import type { LiveStore } from "./LiveStore";
import type { Column } from "./frames";
import { shortNumber, statusWords } from "./words";

interface Props {
  show: boolean;
  /** What is read out: its sensor, where it has one with a working. */
  name: string;
  column: Column;
  store: LiveStore;
  steps: Step[] | null;
  trust: Trust | null;
  air: AirHeard | null;
  onHide: () => void;
}

/** What a channel says now in figures legible from two metres. */
export function LineReadout({ show, name, column, store, steps, trust, air, onHide }: Props) {
  const units = useUnits();
  const [raw, status] = store.newest[column.channel ?? 0] ?? [null, "ok"];
  const last = steps?.filter((step) => step.state === "").at(-1);
  const decision = steps?.find((step) => step.state !== "");
  const [value, spread, unit] =
    last && column.gives && last.value !== null && last.u !== null
      ? measuredIn(readsIn(units, column.gives.quantity.shown), last.value, 2 * last.u)
      : last
        ? ["– –", "", ""]
        : [raw === null ? "– –" : shortNumber(raw, 0), "", column.unit];
  const flagged = last?.status ?? status;
  const word = decision?.shown ?? (flagged === "ok" ? "" : statusWords(flagged));
  return (
    <Modal
      show={show}
      onHide={onHide}
      fullscreen
      animation={false}
      className="readout"
      aria-labelledby="line-readout-title"
    >
      {show && <Keys onHide={onHide} />}
      <Modal.Header closeButton>
        <Modal.Title id="line-readout-title" as="h2">
          {name}, live
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="readout-figure">
          {value}
          <span className="readout-unit">{unit}</span>
        </p>
        <p className="readout-below">
          <span>
            {spread
              ? `± ${spread} ${unit}`
              : last
                ? `no ${column.gives?.label.toLowerCase() ?? "number"}`
                : column.quantity}
          </span>
          {word && <span className={`readout-word word-${decision?.state_look || "alarm"}`}>{word}</span>}
          <TrustWords trust={trust} air={air} className="readout-word" />
        </p>
        {steps && column.sensor_id && <LivePicture sensorId={column.sensor_id} steps={steps} />}
      </Modal.Body>
    </Modal>
  );
}

function Keys({ onHide }: { onHide: () => void }) {
  useKey("r", onHide, true);
  return null;
}
