import { body, client } from "../../api/client";
import type { Sensor } from "../../api/queries";
import { useDeed } from "../../shell/useDeed";

/** Notes what a person saw, right or wrong; returns whether it is kept. */
export function useSignOff(sensor: Sensor, stage: "wired" | "driven") {
  const deed = useDeed();
  return (isRight: boolean, note: string): Promise<boolean> =>
    deed(
      () =>
        body(
          client.POST("/api/sensors/{sensor_id}/sign-offs", {
            params: { path: { sensor_id: sensor.id } },
            body: { stage, is_right: isRight, note },
          }),
        ),
      "Noted.",
      (row) => body(client.DELETE("/api/sign-offs/{sign_off_id}", { params: { path: { sign_off_id: row.id } } })),
    );
}
