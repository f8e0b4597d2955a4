import { useState } from "react";
import { body, client } from "../api/client";
import type { Recording, Sensor } from "../api/queries";
import { useDeed } from "../shell/useDeed";
import { type Draft, NOTHING_TRIED } from "./draft";

export interface Trial {
  /** What is tried out, in words; empty while nothing is. */
  says: string;
  saving: boolean;
  /** Keep it; alsoNow: the air is that around the rig now, too. Resolves to whether it is kept. */
  save: (alsoNow: boolean) => Promise<boolean>;
}

/** What is tried out on a bench and not kept yet, said in one place, and how it is kept. */
export function useTrial(
  sensor: Sensor,
  recording: Recording | null,
  draft: Draft,
  setDraft: (change: Partial<Draft>) => void,
): Trial {
  const [saving, setSaving] = useState(false);
  const deed = useDeed();
  const parts = [draft.air && "other air", draft.parameters && "another chain", draft.rule && "another decision"];
  const says = parts.filter(Boolean).join(" and ");

  async function write(next: Pick<Draft, "air" | "parameters"> & { rigAir: Draft["air"] }) {
    if (next.air && recording) {
      await body(
        client.PATCH("/api/recordings/{recording_id}", {
          params: { path: { recording_id: recording.id } },
          body: { air: next.air },
        }),
      );
    }
    if (next.rigAir) {
      await body(
        client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: sensor.rig_id } }, body: { air: next.rigAir } }),
      );
    }
    if (next.parameters) {
      await body(
        client.PATCH("/api/sensors/{sensor_id}", {
          params: { path: { sensor_id: sensor.id } },
          body: { parameters: next.parameters },
        }),
      );
    }
  }

  async function saveChain(alsoNow: boolean) {
    if (!draft.air && !draft.parameters) return true;
    const before = {
      air: draft.air ? (recording?.air ?? null) : null,
      rigAir: draft.air && alsoNow ? sensor.rig_air : null,
      parameters: draft.parameters ? sensor.parameters : null,
    };
    const next = { air: draft.air, parameters: draft.parameters, rigAir: draft.air && alsoNow ? draft.air : null };
    return deed(
      () => write(next),
      draft.air ? "The air is noted." : "The chain is changed.",
      () => write(before),
    );
  }

  async function saveRule() {
    const { rule } = draft;
    if (!rule) return true;
    return deed(
      () =>
        body(
          client.POST("/api/sensors/{sensor_id}/rules", {
            params: { path: { sensor_id: sensor.id } },
            body: { kind: rule.kind, parameters: rule.parameters },
          }),
        ),
      "The decision is kept.",
      (row) => body(client.DELETE("/api/rules/{rule_id}", { params: { path: { rule_id: row.id } } })),
    );
  }

  return {
    says,
    saving,
    save: async (alsoNow) => {
      setSaving(true);
      const isKept = (await saveChain(alsoNow)) && (await saveRule());
      if (isKept) setDraft(NOTHING_TRIED);
      setSaving(false);
      return isKept;
    },
  };
}
