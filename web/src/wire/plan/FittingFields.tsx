import { useState } from "react";
import Form from "react-bootstrap/Form";
import { type Schemas, body, client } from "../../api/client";
import { useDeed } from "../../shell/useDeed";
import { QuantityInput } from "../../units/QuantityInput";
import type { WiredDevice } from "../queries";

type Fitting = Schemas["Fitting"];

const DEGREE = Math.PI / 180;

/** What the checks have to know of a device: address, pulses, full charge, where it looks. */
export function FittingFields({ device }: { device: WiredDevice }) {
  const before: Fitting = {
    address: device.address,
    pulse_hz: device.pulse_hz,
    full_charge_v: device.full_charge_v,
    facing_rad: device.facing_rad,
  };
  const [fitting, setFitting] = useState(before);
  const deed = useDeed();
  const write = (next: Fitting) =>
    body(
      client.PATCH("/api/sensors/{sensor_id}", { params: { path: { sensor_id: device.id } }, body: { fitting: next } }),
    );

  async function keep(next: Fitting) {
    if (JSON.stringify(next) === JSON.stringify(before)) return;
    if (
      !(await deed(
        () => write(next),
        `${device.name} is noted.`,
        () => write(before),
      ))
    )
      setFitting(before);
  }

  const set = (change: Fitting) => setFitting({ ...fitting, ...change });
  return (
    <div className="fields fitting" onBlur={() => void keep(fitting)}>
      {device.asks.includes("facing_rad") && (
        <QuantityInput
          label="Looks"
          unit="° left of ahead"
          perUnit={DEGREE}
          decimals={0}
          value={fitting.facing_rad ?? null}
          placeholder="not said"
          onChange={(value) => set({ facing_rad: value })}
        />
      )}
      {device.asks.includes("pulse_hz") && (
        <QuantityInput
          label="Pulses, at most"
          unit="/s"
          decimals={1}
          value={fitting.pulse_hz ?? null}
          placeholder="not said"
          onChange={(value) => set({ pulse_hz: value })}
        />
      )}
      {device.asks.includes("full_charge_v") && (
        <QuantityInput
          label="At full charge"
          unit="V"
          decimals={2}
          value={fitting.full_charge_v ?? null}
          placeholder="not said"
          onChange={(value) => set({ full_charge_v: value })}
        />
      )}
      {device.asks.includes("address") && (
        <Form.Group controlId={`address-${device.id}`} className="quantity">
          <Form.Label>Bus address</Form.Label>
          <Form.Select
            size="sm"
            value={fitting.address ?? device.addresses[0]}
            onChange={(event) => {
              const next = { ...fitting, address: Number(event.target.value) };
              setFitting(next);
              void keep(next);
            }}
          >
            {device.addresses.map((address) => (
              <option key={address} value={address}>
                0x{address.toString(16)}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      )}
    </div>
  );
}
