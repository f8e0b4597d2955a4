import { useState } from "react";
import { body, client } from "../../api/client";
import type { Sensor } from "../../api/queries";
import { useDeed } from "../../shell/useDeed";

/** A note being written, and how to keep it as what a person saw: right or wrong. */
export function useSignOff(sensor: Sensor, stage: "wired" | "driven") {
  const [note, setNote] = useState("");
  const deed = useDeed();

  async function sign(isRight: boolean, recordingId: number | null = null) {
    const isKept = await deed(
      () =>
        body(
          client.POST("/api/sensors/{sensor_id}/sign-offs", {
            params: { path: { sensor_id: sensor.id } },
            body: { stage, is_right: isRight, note, ...(recordingId === null ? {} : { recording_id: recordingId }) },
          }),
        ),
      "Noted.",
      (row) => body(client.DELETE("/api/sign-offs/{sign_off_id}", { params: { path: { sign_off_id: row.id } } })),
    );
    if (isKept) setNote("");
  }

  return { note, setNote, sign };
}
