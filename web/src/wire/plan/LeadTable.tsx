import { useState } from "react";
import type { WiredDevice, Wiring } from "../queries";
import { FittingFields } from "./FittingFields";
import { LeadRow } from "./LeadRow";

/** A device's leads, where each goes, and what has to be said of the device for the checks. */
export function LeadTable({ wiring, device }: { wiring: Wiring; device: WiredDevice }) {
  const [all, setAll] = useState(false);
  const hidden = device.leads.filter((lead) => lead.is_optional && !lead.end).length;
  const leads = device.leads.filter((lead) => all || !lead.is_optional || lead.end);
  if (device.leads.length === 0) return <p className="quiet">{device.wired.reason}</p>;
  return (
    <>
      {device.asks.length > 0 && (
        <FittingFields key={JSON.stringify([device.address, device.facing_rad])} device={device} />
      )}
      <table className="leads">
        <thead>
          <tr>
            <th scope="col">Lead</th>
            <th scope="col">Goes to</th>
            <th scope="col">Through</th>
            <th scope="col">Wire</th>
            <th scope="col">Keep</th>
          </tr>
        </thead>
        <tbody>
          {leads.map((lead) => (
            <LeadRow key={lead.name} wiring={wiring} device={device} lead={lead} />
          ))}
        </tbody>
      </table>
      {hidden > 0 && !all && (
        <button type="button" className="link more-leads" onClick={() => setAll(true)}>
          {hidden} more that may stay open
        </button>
      )}
    </>
  );
}
