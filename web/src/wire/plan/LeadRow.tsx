import { useState } from "react";
import Form from "react-bootstrap/Form";
import { type Connection, type Lead, type WiredDevice, type Wiring, sent, useWiringChanges } from "../queries";
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

  function put(change: Partial<Connection>) {
    const now = { device: device.id, lead: lead.name, to: end?.to ?? "", beads: end?.beads.map(sent) ?? [], colour: end?.colour ?? "", is_fixed: end?.is_fixed ?? false };
    void changes.connect(device, lead, { ...now, ...change });
  }

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
            onChange={(event) => (event.target.value ? put({ to: event.target.value }) : void changes.connect(device, lead, null))}
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
              <button type="button" aria-label={`Take ${bead.words} off ${name}`} onClick={() => put({ beads: end.beads.filter((_, other) => other !== index).map(sent) })}>
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
              <Form.Select size="sm" aria-label={`Colour of ${name}`} value={end.shown_colour} onChange={(event) => put({ colour: event.target.value })}>
                {wiring.colours.map((colour) => (
                  <option key={colour}>{colour}</option>
                ))}
              </Form.Select>
            </span>
          )}
        </td>
        <td>
          {end && lead.wants.length > 0 && (
            <Form.Check aria-label={`Keep ${name} on ${end.to} when pins are proposed anew`} checked={end.is_fixed} onChange={(event) => put({ is_fixed: event.target.checked })} />
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
                put({ beads: [...end.beads.map(sent), bead] });
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
