import Form from "react-bootstrap/Form";
import { type Connection, type Lead, type WiredDevice, type Wiring, useWiringChanges } from "../queries";
import { PendingCheck } from "../PendingCheck";
import { wireColour } from "../wireColours";
import { useWireParts } from "./useWireParts";

/** What the choice of a lead left open is called; no place has such a name. */
const OPEN = "\u0000open";

/** One lead: where it goes, through which parts, in which colour, and whether it has to stay. */
export function LeadRow({ wiring, device, lead }: { wiring: Wiring; device: WiredDevice; lead: Lead }) {
  const parts = useWireParts(wiring, device, lead);
  const changes = useWiringChanges(wiring);
  const end = lead.end;
  const mine = wiring.findings.filter((finding) =>
    finding.spots.some((spot) => spot.device === device.id && spot.lead === lead.name),
  );
  const worst = mine.some((finding) => finding.severity === "error")
    ? "error"
    : mine.some((finding) => finding.severity === "warning")
      ? "warning"
      : "";

  const isOpen = wiring.left_open.some((one) => one.device === device.id && one.lead === lead.name);
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
            value={end?.to ?? (isOpen ? OPEN : "")}
            onChange={(event) => {
              const to = event.target.value;
              if (to === OPEN) void changes.leaveOpen(device, lead);
              else void (to ? put(() => ({ to })) : changes.disconnect(device, lead));
            }}
          >
            <option value="">nowhere yet</option>
            <option value={OPEN}>left open on purpose</option>
            <Ends wiring={wiring} device={device} lead={lead} now={end?.to ?? ""} />
          </Form.Select>
        </td>
        <td className="beads">{parts.chips}</td>
        <td>
          {end && (
            <span className="wire-choice">
              <span className="wire-swatch" style={{ background: wireColour(end.shown_colour) }} aria-hidden="true" />
              <Form.Select
                size="sm"
                aria-label={`Colour of ${name}`}
                value={end.shown_colour}
                onChange={(event) => {
                  const colour = event.target.value;
                  void put(() => ({ colour }));
                }}
              >
                {wiring.colours.map((colour) => (
                  <option key={colour}>{colour}</option>
                ))}
              </Form.Select>
            </span>
          )}
        </td>
        <td>
          {end && lead.wants.length > 0 && (
            <PendingCheck
              aria-label={`Keep ${name} on ${end.to} when pins are proposed anew`}
              checked={end.is_fixed}
              onToggle={(checked) => put(() => ({ is_fixed: checked }))}
            />
          )}
        </td>
      </tr>
      {parts.editor && (
        <tr className="lead-part">
          <td colSpan={5}>{parts.editor}</td>
        </tr>
      )}
    </>
  );
}

/** Pins and rails to choose from: what fits first, then what is taken, then what cannot do it. */
function Ends({ wiring, device, lead, now }: { wiring: Wiring; device: WiredDevice; lead: Lead; now: string }) {
  const own = wiring.places.filter((place) => place.group !== "leads");
  const leads = wiring.places.filter((place) => place.group === "leads" && !place.name.startsWith(`${device.id}.`));
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
      <optgroup label="Pins that fit">
        {wiring.pins.filter((pin) => able(pin) && (pin.used_by.length === 0 || pin.name === now)).map(option)}
      </optgroup>
      <optgroup label="Pins in use">
        {wiring.pins.filter((pin) => able(pin) && pin.used_by.length > 0 && pin.name !== now).map(option)}
      </optgroup>
      <optgroup label="Pins that cannot do it">{wiring.pins.filter((pin) => !able(pin)).map(option)}</optgroup>
      {lead.wants.length > 0 && rails}
      {own.length > 0 && (
        <optgroup label="Own supplies and joints">
          {own.map((place) => (
            <option key={place.name} value={place.name}>
              {place.words}
            </option>
          ))}
        </optgroup>
      )}
      {leads.length > 0 && (
        <optgroup label="Leads of other devices">
          {leads.map((place) => (
            <option key={place.name} value={place.name}>
              {place.words}
            </option>
          ))}
        </optgroup>
      )}
    </>
  );
}
