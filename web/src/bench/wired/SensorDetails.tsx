import { useNavigate } from "react-router";
import { body, client } from "../../api/client";
import { type Sensor, useRefresh } from "../../api/queries";
import { DetailsForm } from "../../shell/DetailsForm";

/** What a sensor is called and where it sits; and putting it away. */
export function SensorDetails({ sensor }: { sensor: Sensor }) {
  const navigate = useNavigate();
  const refresh = useRefresh();
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
      write={async (next) => {
        await body(client.PATCH("/api/sensors/{sensor_id}", { params, body: next }));
        await refresh();
      }}
      putAway={async () => {
        await body(client.DELETE("/api/sensors/{sensor_id}", { params }));
        await navigate(`/rigs/${sensor.rig_id}`);
        await refresh();
        return async () => {
          await body(client.POST("/api/sensors/{sensor_id}/restore", { params }));
          await refresh();
        };
      }}
    />
  );
}
