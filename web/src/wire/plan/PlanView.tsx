import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Empty } from "../../shell/States";
import { type Wiring, useWiringChanges } from "../queries";
import { BenchParts } from "../circuit/BenchParts";
import { AddDevice } from "./AddDevice";
import { BoardChooser } from "./BoardChooser";
import { DeviceCard } from "./DeviceCard";
import { RailsBar } from "./RailsBar";
import { SettingsPanel } from "./SettingsPanel";

/** Every device with its leads, and where each goes; board, supplies and settings above. */
export function PlanView({ wiring, onImpossible }: { wiring: Wiring; onImpossible: (why: string) => void }) {
  const [open, setOpen] = useState<"board" | "settings" | "device" | null>(
    wiring.devices.length === 0 ? "device" : null,
  );
  const changes = useWiringChanges(wiring);
  const toggle = (what: typeof open) => setOpen(open === what ? null : what);
  return (
    <>
      <div className="plan-head">
        <p className="figures">
          <span>
            <strong>{wiring.board?.label}</strong>
          </span>
          <span>{devicesWords(wiring)}</span>
        </p>
        <div className="page-actions">
          <Button
            size="sm"
            variant="outline-primary"
            aria-expanded={open === "device"}
            onClick={() => toggle("device")}
          >
            Add a device
          </Button>
          <Button size="sm" variant="outline-primary" aria-expanded={open === "board"} onClick={() => toggle("board")}>
            Other board
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            aria-expanded={open === "settings"}
            onClick={() => toggle("settings")}
          >
            Settings
          </Button>
          {wiring.devices.length > 0 && wiring.loose === 0 && (
            <Button
              size="sm"
              variant="outline-primary"
              title="What you keep fixed stays"
              onClick={() => void changes.propose(true).then(onImpossible)}
            >
              Propose all anew
            </Button>
          )}
        </div>
      </div>
      {open === "device" && <AddDevice rigId={wiring.rig_id} onClose={() => setOpen(null)} />}
      {open === "board" && (
        <section className="panel" aria-label="Board">
          <p>
            Wires stay where the new board has a pin or rail of the same name; the others come off, and are back when
            this board is.
          </p>
          <BoardChooser rigId={wiring.rig_id} chosen={wiring.board?.name ?? ""} onDone={() => setOpen(null)} />
        </section>
      )}
      {open === "settings" && <SettingsPanel wiring={wiring} onDone={() => setOpen(null)} />}
      <RailsBar wiring={wiring} />
      <BenchParts wiring={wiring} />
      {wiring.devices.length === 0 && (
        <Empty title="Nothing is wired to the board yet.">
          <p>Add a device by its kind, or type the labels printed beside its pins.</p>
        </Empty>
      )}
      <div className="device-cards">
        {wiring.devices.map((device) => (
          <DeviceCard key={device.id} wiring={wiring} device={device} />
        ))}
      </div>
    </>
  );
}

function devicesWords({ devices, loose }: Wiring): string {
  if (devices.length === 0) return "no device yet";
  const leads =
    loose === 0 ? "every lead has a place" : loose === 1 ? "1 lead without a place" : `${loose} leads without a place`;
  return `${devices.length === 1 ? "1 device" : `${devices.length} devices`}, ${leads}`;
}
