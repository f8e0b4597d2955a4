import { Link } from "react-router";
import { body, client } from "../../api/client";
import { useDeed } from "../../shell/useDeed";
import { StoneMark } from "../../stones/StoneMark";
import type { WiredDevice, Wiring } from "../queries";
import { LeadTable } from "./LeadTable";
import { Explained } from "../../shell/Explained";

/** One device of the plan: its stone, its leads, and taking it off. */
export function DeviceCard({ wiring, device }: { wiring: Wiring; device: WiredDevice }) {
  const deed = useDeed();
  const params = { path: { sensor_id: device.id } };
  const takeOff = () =>
    deed(
      () => body(client.DELETE("/api/sensors/{sensor_id}", { params })),
      `${device.name} is off the rig.`,
      () => body(client.POST("/api/sensors/{sensor_id}/restore", { params })),
    );

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
          <Explained text={device.family_label} />
          {device.place && ` · ${device.place}`}
        </span>
        <button type="button" className="link ms-auto" onClick={() => void takeOff()}>
          Remove it<span className="visually-hidden"> {device.name}</span>
        </button>
      </header>
      <LeadTable wiring={wiring} device={device} />
    </section>
  );
}
