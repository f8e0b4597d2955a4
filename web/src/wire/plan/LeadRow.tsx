import { useState } from "react";
import Form from "react-bootstrap/Form";
import { type Connection, type Lead, type WiredDevice, type Wiring, useWiringChanges } from "../queries";
import { PendingCheck } from "../PendingCheck";
import { wireColour } from "../wireColours";
import { BeadEditor } from "./BeadEditor";
import { BeadGlyph } from "./BeadGlyph";

/** One lead: where it goes, through which parts, in which colour, and whether it has to stay. */
export function LeadRow({ wiring, device, lead }: { wiring: Wiring; device: WiredDevice; lead: Lead }) {
  const [adding, setAdding] = useState(false);
  const changes = useWiringChanges(wiring);
  const end = lead.end;
  const mine = wiring.findings.filter((finding) => finding.spots.some((spot) => spot.device === device.id && spot.lead === lead.name));
  const worst = mine.some((finding) => finding.severity === "error") ? "error" : mine.some((finding) => finding.severity === "warning") ? "warning" : "";

  const put = (alter: (now: Connection) => Partial<Connection>) => changes.connect(device, lead, alter);
  const name = `${device.name} ${lead.name}`;
  return (
    <>
      <tr className={worst ? `lead-${worst}` : ""}>
        <th scope="row" title={lead.role_words}>
          {lead.name} <span className="quiet">{lead.role_words}</span>
        </th>
        <td>
          <Form.Select
            size="sm"
            aria-label={`${name} goes to`}
            value={end?.to ?? ""}
            onChange={(event) => {
              const to = event.target.value;
              void (to ? put(() => ({ to })) : changes.disconnect(device, lead));
            }}
          >
            <option value="">nowhere yet</option>
            <Ends wiring={wiring} lead={lead} now={end?.to ?? ""} />
          </Form.Select>
        </td>
        <td className="beads">
          {end?.beads.map((bead, index) => (
            <span key={index} className="bead">
              <BeadGlyph bead={bead} />
              {bead.words}
              <button type="button" aria-label={`Take ${bead.words} off ${name}`} onClick={() => void put((now) => ({ beads: now.beads?.filter((_, other) => other !== index) }))}>
                ×
              </button>
            </span>
          ))}
          {end && (
            <button type="button" className="link add-bead" aria-expanded={adding} aria-label={`Add a part to ${name}`} onClick={() => setAdding(!adding)}>
              + part
            </button>
          )}
        </td>
        <td>
          {end && (
            <span className="wire-choice">
              <span className="wire-swatch" style={{ background: wireColour(end.shown_colour) }} aria-hidden="true" />
              <Form.Select size="sm" aria-label={`Colour of ${name}`} value={end.shown_colour} onChange={(event) => {
                  const colour = event.target.value;
                  void put(() => ({ colour }));
                }}>
                {wiring.colours.map((colour) => (
                  <option key={colour}>{colour}</option>
                ))}
              </Form.Select>
            </span>
          )}
        </td>
        <td>
          {end && lead.wants.length > 0 && (
            <PendingCheck aria-label={`Keep ${name} on ${end.to} when pins are proposed anew`} checked={end.is_fixed} onToggle={(checked) => put(() => ({ is_fixed: checked }))} />
          )}
        </td>
      </tr>
      {adding && end && (
        <tr>
          <td colSpan={5}>
            <BeadEditor
              rails={wiring.rails.filter((rail) => rail.kind !== "ground").map((rail) => rail.name)}
              onLeave={() => setAdding(false)}
              onAdd={(bead) => {
                setAdding(false);
                void put((now) => ({ beads: [...(now.beads ?? []), bead] }));
              }}
            />
          </td>
        </tr>
      )}
    </>
  );
}

/** Pins and rails to choose from: what fits first, then what is taken, then what cannot do it. */
function Ends({ wiring, lead, now }: { wiring: Wiring; lead: Lead; now: string }) {
  const able = (pin: Wiring["pins"][number]) => lead.wants.every((want) => pin.abilities.includes(want));
  const label = (pin: Wiring["pins"][number]) => {
    const others = pin.name === now ? [] : pin.used_by;
    const use = pin.use === "none" ? "" : ` (${pin.use})`;
    return `${pin.name}${use}${others.length ? ` – ${others.join(", ")}` : ""}`;
  };
  const option = (pin: Wiring["pins"][number]) => (
    <option key={pin.name} value={pin.name}>
      {label(pin)}
    </option>
  );
  const rails = (
    <optgroup label="Supplies and ground">
      {wiring.rails.map((rail) => (
        <option key={rail.name} value={rail.name}>
          {rail.name}
        </option>
      ))}
    </optgroup>
  );
  return (
    <>
      {lead.wants.length === 0 && rails}
      <optgroup label="Pins that fit">{wiring.pins.filter((pin) => able(pin) && (pin.used_by.length === 0 || pin.name === now)).map(option)}</optgroup>
      <optgroup label="Pins in use">{wiring.pins.filter((pin) => able(pin) && pin.used_by.length > 0 && pin.name !== now).map(option)}</optgroup>
      <optgroup label="Pins that cannot do it">{wiring.pins.filter((pin) => !able(pin)).map(option)}</optgroup>
      {lead.wants.length > 0 && rails}
    </>
  );
}
