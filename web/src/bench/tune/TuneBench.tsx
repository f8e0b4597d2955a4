import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../../api/client";
import type { Schemas } from "../../api/client";
import { useDeed } from "../../shell/useDeed";
import { QuantityInput } from "../../units/QuantityInput";
import { quantityText, useUnits } from "../../units/units";
import { BenchPlot } from "../BenchPlot";
import { RecordingHead } from "../RecordingHead";
import type { BenchProps } from "../types";
import { StoppingSum } from "./StoppingSum";

type Stopping = Schemas["StoppingIn"];

const USUAL: Stopping = {
  speed_m_per_s: 0.5,
  speed_u: 0,
  deceleration_m_per_s2: 1.5,
  deceleration_u: 0,
  loop_s: null,
  actuate_s: 0.05,
  margin_m: 0.05,
};

/** From speed and braking to stop and go-again distances. */
export function TuneBench(props: BenchProps) {
  const { sensor, recording, view, draft, setDraft } = props;
  const saved = sensor.threshold;
  const [stopping, setStopping] = useState<Stopping>(saved?.stopping ?? USUAL);
  const [saving, setSaving] = useState(false);
  const units = useUnits();
  const deed = useDeed();
  const threshold = draft.threshold ?? saved;
  const asked = { ...stopping, stop_m: threshold?.stop_m ?? null };
  const sum = useQuery({
    queryKey: ["stopping", sensor.id, asked],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/sensors/{sensor_id}/stopping", { params: { path: { sensor_id: sensor.id } }, body: asked }),
      ),
  });
  const set = (name: keyof Stopping) => (value: number | null) => {
    if (value !== null) setStopping({ ...stopping, [name]: value });
  };
  const setThreshold = (change: Partial<{ stop_m: number; go_m: number }>) => {
    const before = threshold ?? { stop_m: sum.data?.suggested_stop_m ?? 0.3, go_m: sum.data?.suggested_go_m ?? 0.4 };
    setDraft({ threshold: { stop_m: before.stop_m, go_m: before.go_m, ...change } });
  };
  const crossed = threshold !== null && threshold.stop_m >= threshold.go_m;
  const short = sum.data && threshold && threshold.stop_m < sum.data.total_m;

  async function save() {
    if (!threshold) return;
    setSaving(true);
    const isSet = await deed(
      () =>
        body(
          client.POST("/api/sensors/{sensor_id}/thresholds", {
            params: { path: { sensor_id: sensor.id } },
            body: { stop_m: threshold.stop_m, go_m: threshold.go_m, stopping },
          }),
        ),
      "The thresholds are kept.",
      (row) => body(client.DELETE("/api/thresholds/{threshold_id}", { params: { path: { threshold_id: row.id } } })),
    );
    if (isSet) setDraft({ threshold: null });
    setSaving(false);
  }

  return (
    <>
      {recording ? (
        <>
          <RecordingHead {...props} />
          <BenchPlot {...props} view={crossed ? undefined : view} height={190} />
        </>
      ) : (
        <p className="bench-note">No recording yet: the stopping distance can be worked out all the same.</p>
      )}
      <div className="tune">
        <section aria-label="Stopping distance">
          <h2>How far it runs on</h2>
          <div className="fields">
            <QuantityInput
              label="Speed"
              quantity="speed"
              decimals={2}
              value={stopping.speed_m_per_s}
              onChange={set("speed_m_per_s")}
            />
            <QuantityInput
              label="Braking"
              quantity="acceleration"
              decimals={2}
              value={stopping.deceleration_m_per_s2}
              onChange={set("deceleration_m_per_s2")}
            />
            <QuantityInput
              label="Program loop"
              unit="ms"
              perUnit={0.001}
              decimals={0}
              value={stopping.loop_s ?? sum.data?.loop_s ?? null}
              hint={stopping.loop_s === null || stopping.loop_s === undefined ? "from the time budget" : undefined}
              onChange={(value) => setStopping({ ...stopping, loop_s: value })}
            />
            <QuantityInput
              label="Brake bites after"
              unit="ms"
              perUnit={0.001}
              decimals={0}
              value={stopping.actuate_s ?? null}
              onChange={set("actuate_s")}
            />
            <QuantityInput
              label="Room to spare"
              quantity="smallLength"
              decimals={0}
              value={stopping.margin_m ?? null}
              onChange={set("margin_m")}
            />
          </div>
          {sum.data && <StoppingSum sum={sum.data} />}
          {sum.isError && <p className="field-problem">{sum.error.message}</p>}
        </section>
        <section aria-label="Thresholds">
          <h2>When it stops and goes</h2>
          <div className="fields">
            <QuantityInput
              label="Stop below"
              quantity="length"
              decimals={3}
              value={threshold?.stop_m ?? null}
              onChange={(value) => value !== null && setThreshold({ stop_m: value })}
            />
            <QuantityInput
              label="Go again above"
              quantity="length"
              decimals={3}
              value={threshold?.go_m ?? null}
              onChange={(value) => value !== null && setThreshold({ go_m: value })}
              problem={crossed ? "has to be above the stop distance" : undefined}
            />
          </div>
          {sum.data && (
            <p className="quiet">
              {threshold && sum.data.greatest_speed_m_per_s !== null && (
                <span className={short ? "is-bad" : ""}>
                  Stopping below {quantityText(units, "length", threshold.stop_m, 2)} is good up to{" "}
                  {quantityText(units, "speed", sum.data.greatest_speed_m_per_s, 2)}.{" "}
                </span>
              )}
              The band between keeps it from dithering.
            </p>
          )}
          <div className="panel-actions">
            {sum.data && (
              <Button
                size="sm"
                variant="outline-primary"
                disabled={sum.isPlaceholderData}
                onClick={() =>
                  setDraft({ threshold: { stop_m: sum.data.suggested_stop_m, go_m: sum.data.suggested_go_m } })
                }
              >
                Take {quantityText(units, "length", sum.data.suggested_stop_m, 2)} and{" "}
                {quantityText(units, "length", sum.data.suggested_go_m, 2)}
              </Button>
            )}
            <Button size="sm" disabled={!threshold || crossed || saving} onClick={() => void save()}>
              Keep the thresholds
            </Button>
            {draft.threshold && (
              <Button size="sm" variant="outline-primary" onClick={() => setDraft({ threshold: null })}>
                Cancel
              </Button>
            )}
          </div>
          <p className="caution">
            Try it with the wheels off the floor first, and keep a stop within reach. Tick Stone is not a safety device.
          </p>
        </section>
      </div>
    </>
  );
}
