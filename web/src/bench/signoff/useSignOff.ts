import { body, client } from "../../api/client";
import { type Sensor, useRefresh } from "../../api/queries";
import { useNotices } from "../../shell/Notices";

/** Notes what a person saw, right or wrong; returns whether it is kept. */
export function useSignOff(sensor: Sensor, stage: "wired" | "driven") {
  const refresh = useRefresh();
  const notices = useNotices();
  return async (isRight: boolean, note: string): Promise<boolean> => {
    try {
      const row = await body(
        client.POST("/api/sensors/{sensor_id}/sign-offs", {
          params: { path: { sensor_id: sensor.id } },
          body: { stage, is_right: isRight, note },
        }),
      );
      notices.done("Noted.", async () => {
        await body(client.DELETE("/api/sign-offs/{sign_off_id}", { params: { path: { sign_off_id: row.id } } }));
        await refresh();
      });
      await refresh();
      return true;
    } catch (error) {
      notices.failed(error);
      return false;
    }
  };
}
