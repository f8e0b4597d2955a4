import { useState } from "react";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import { useRefresh } from "../../api/queries";
import { useNotices } from "../../shell/Notices";
import { StoneMark } from "../../stones/StoneMark";
import type { WiredDevice, Wiring } from "../queries";
import { FittingFields } from "./FittingFields";
import { LeadRow } from "./LeadRow";

/** One device: its leads, and what has to be said of it for the checks. */
export function DeviceCard({ wiring, device }: { wiring: Wiring; device: WiredDevice }) {
  const [all, setAll] = useState(false);
  const refresh = useRefresh();
  const notices = useNotices();
  const hidden = device.leads.filter((lead) => lead.is_optional && !lead.end).length;
  const leads = device.leads.filter((lead) => all || !lead.is_optional || lead.end);
  const params = { path: { sensor_id: device.id } };

  async function takeOff() {
    try {
      await body(client.DELETE("/api/sensors/{sensor_id}", { params }));
      notices.done(`${device.name} is off the rig.`, async () => {
        await body(client.POST("/api/sensors/{sensor_id}/restore", { params }));
        await refresh();
      });
      await refresh();
    } catch (error) {
      notices.failed(error);
    }
  }

  return (
    <section className={`device-card ${device.wired.state === "failing" ? "has-errors" : ""}`} aria-label={device.name}>
      <header>
        <span title={device.wired.reason} className="card-stone">
          <StoneMark state={device.wired.state} size={22} />
          <span className="visually-hidden">{device.wired.reason}</span>
        </span>
        <h2>
          <Link to={`/sensors/${device.id}/wired`}>{device.name}</Link>
        </h2>
        <span className="quiet">
          {device.family_label}
          {device.place && ` · ${device.place}`}
        </span>
        <button type="button" className="link ms-auto" onClick={() => void takeOff()}>
          Take it off<span className="visually-hidden"> {device.name}</span>
        </button>
      </header>
      {device.asks.length > 0 && <FittingFields key={JSON.stringify([device.address, device.facing_rad])} device={device} />}
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
    </section>
  );
}
