import { useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { Trouble } from "../shell/States";
import { grouped } from "../units/units";
import { ColumnsChoice } from "./ColumnsChoice";
import { type Line, LoopPlot } from "./LoopPlot";
import { PLAIN } from "./plain";
import { type Columns, type ControlBench, type Values, useStepFit } from "./queries";

interface Props {
  rigId: number;
  bench: ControlBench;
  onTake: (inputs: Values) => void;
}

/** A plant from a step of one's own: gain, lag, dead time, their ± and the fit drawn. */
export function OwnStep({ rigId, bench, onTake }: Props) {
  const [columns, setColumns] = useState<Columns | null>(null);
  const [model, setModel] = useState(bench.models[0]?.name ?? "lag");
  const told = useStepFit(rigId, columns && columns.measured >= 0 ? columns : null, model);
  const fit = told.isError ? undefined : told.data;
  const lines = useMemo<Line[]>(
    () =>
      fit
        ? [
            { name: "read", time_s: fit.time_s, values: fit.read, look: 1, isFaint: true },
            { name: "fitted", time_s: fit.time_s, values: fit.told, look: 1 },
          ]
        : [],
    [fit],
  );
  return (
    <section className="own-step" aria-label="Your own step">
      <p className="quiet">
        Let the output step once, by hand, from rest to rest, and record both columns. The fit says what is steered.
      </p>
      <ColumnsChoice bench={bench} columns={columns} onChange={setColumns} hasWanted={false} />
      <label className="own-model">
        It
        <select className="form-select form-select-sm" value={model} onChange={(event) => setModel(event.target.value)}>
          {bench.models.map((one) => (
            <option key={one.name} value={one.name}>
              {one.label}
            </option>
          ))}
        </select>
      </label>
      {told.isError && columns && columns.measured >= 0 && <Trouble error={told.error} />}
      {fit && (
        <>
          <LoopPlot label="The step and its fit" lines={lines} reads={PLAIN} height={150} hasTimes />
          <p>
            Gain <b>{pm(fit.gain, fit.u_gain)}</b>, lag <b>{pm(fit.lag_s, fit.u_lag_s)} s</b>, dead time{" "}
            <b>{pm(fit.delay_s, fit.u_delay_s)} s</b>. It explains {grouped(100 * fit.explained, 1)} % of what was read.
          </p>
          {fit.remarks.map((one) => (
            <p key={one} className="bench-note warning">
              {one}
            </p>
          ))}
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() =>
              onTake({ gain: fit.gain, lag_s: fit.lag_s, delay_s: fit.delay_s, model: fit.model, sticks: 0 })
            }
          >
            Steer this
          </Button>
        </>
      )}
    </section>
  );
}

/** A value with twice its uncertainty. */
function pm(value: number, u: number | null): string {
  if (u === null) return `${value.toPrecision(3)} ± ?`;
  const decimals = Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(2 * u || 1e-6))));
  return `${grouped(value, decimals)} ± ${grouped(2 * u, decimals)}`;
}
