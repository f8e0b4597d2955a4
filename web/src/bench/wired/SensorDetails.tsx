import { body, client } from "../../api/client";
import type { Sensor } from "../../api/queries";
import { DetailsForm } from "../../shell/DetailsForm";

/** What a sensor is called and where it sits; and putting it away. */
export function SensorDetails({ sensor }: { sensor: Sensor }) {
  const params = { path: { sensor_id: sensor.id } };
  return (
    <DetailsForm
      title="The sensor"
      thing="sensor"
      fields={[
        { name: "name", label: "Its name", placeholder: "Front ranger", longest: 120 },
        { name: "place", label: "Place", placeholder: "front, 95 mm up", longest: 120 },
      ]}
      kept={{ name: sensor.name, place: sensor.place }}
      write={(next) => body(client.PATCH("/api/sensors/{sensor_id}", { params, body: next }))}
      putAway={() => body(client.DELETE("/api/sensors/{sensor_id}", { params }))}
      bringBack={() => body(client.POST("/api/sensors/{sensor_id}/restore", { params }))}
      home={`/rigs/${sensor.rig_id}`}
    />
  );
}
