import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { QuantityInput } from "../../units/QuantityInput";
import { type Settings, type Wiring, useWiringChanges } from "../queries";

/** What the rig as a whole decides: reference, bus speed, wires, its own supply, rangers. */
export function SettingsPanel({ wiring, onDone }: { wiring: Wiring; onDone: () => void }) {
  const [settings, setSettings] = useState<Settings>(wiring.settings);
  const changes = useWiringChanges(wiring);
  const set = (change: Partial<Settings>) => setSettings({ ...settings, ...change });
  const fed = wiring.rails.find((rail) => rail.kind === "input");

  async function submit(event: FormEvent) {
    event.preventDefault();
    if (await changes.setSettings(settings)) onDone();
  }

  return (
    <form className="panel" onSubmit={(event) => void submit(event)} aria-label="Settings">
      <div className="fields">
        {(wiring.board?.references.length ?? 0) > 0 && (
          <Form.Group controlId="reference" className="quantity wide">
            <Form.Label>Converter’s reference</Form.Label>
            <Form.Select
              size="sm"
              value={settings.reference || wiring.board?.references[0]}
              onChange={(event) => set({ reference: event.target.value })}
            >
              {wiring.board?.references.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </Form.Select>
          </Form.Group>
        )}
        <QuantityInput
          label="I²C clock"
          unit="kHz"
          perUnit={1000}
          decimals={0}
          value={settings.bus_hz ?? null}
          onChange={(value) => value !== null && set({ bus_hz: value })}
        />
        <QuantityInput
          label="Wires, each"
          quantity="length"
          decimals={2}
          value={settings.wire_m ?? null}
          onChange={(value) => value !== null && set({ wire_m: value })}
        />
        {fed && (
          <QuantityInput
            label={`${fed.name} is fed`}
            unit="V"
            decimals={2}
            value={settings.vin_v ?? null}
            placeholder={fed.volts.toFixed(1)}
            onChange={(value) => set({ vin_v: value })}
          />
        )}
      </div>
      <Form.Check
        id="in-turn"
        className="mt-2"
        label="Rangers fire in turn, never two at once"
        checked={settings.fires_in_turn ?? false}
        onChange={(event) => set({ fires_in_turn: event.target.checked })}
      />
      <div className="panel-actions">
        <Button type="submit" size="sm">
          Keep them
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
