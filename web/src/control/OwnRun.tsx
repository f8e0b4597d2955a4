import { useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { Trouble } from "../shell/States";
import { grouped } from "../units/units";
import { ColumnsChoice } from "./ColumnsChoice";
import { type Line, LoopPlot } from "./LoopPlot";
import { PLAIN } from "./plain";
import { type Columns, type ControlBench, type Values, useReadLoop } from "./queries";

interface Props {
  rigId: number;
  bench: ControlBench;
  onTake: (gains: Values) => void;
}

/** A loop that the rig itself ran: the same measures, from its columns. */
export function OwnRun({ rigId, bench, onTake }: Props) {
  const [columns, setColumns] = useState<Columns | null>(null);
  const told = useReadLoop(rigId, columns && columns.measured >= 0 ? columns : null);
  const run = told.isError ? undefined : told.data;
  const above = useMemo<Line[]>(
    () =>
      run
        ? [
            { name: "wanted", time_s: run.time_s, values: run.wanted, look: -1, isStepped: true },
            { name: "measured", time_s: run.time_s, values: run.measured, look: 1 },
          ]
        : [],
    [run],
  );
  const below = useMemo<Line[]>(
    () => (run ? [{ name: "output", time_s: run.time_s, values: run.output, look: 3, isStepped: true }] : []),
    [run],
  );
  const m = run?.measures;
  return (
    <section className="own-step" aria-label="A run of the rig">
      <p className="quiet">
        Have the program print set, measured and output, record a step, and read it by the same measures. A run with a
        relay in place of the controller tells where the edge is.
      </p>
      <ColumnsChoice bench={bench} columns={columns} onChange={setColumns} hasWanted />
      {told.isError && columns && columns.measured >= 0 && <Trouble error={told.error} />}
      {run && (
        <>
          <LoopPlot label="Wanted and measured" lines={above} reads={PLAIN} height={150} hasTimes={false} />
          <LoopPlot label="Output" lines={below} reads={PLAIN} height={90} hasTimes />
          {m ? (
            <p>
              Over by <b>{m.overshoot === null ? "–" : `${grouped(100 * m.overshoot, 0)} %`}</b>, settles{" "}
              <b>{m.settling_s === null ? "never" : `in ${grouped(m.settling_s, 2)} s`}</b>, left over{" "}
              <b>{m.offset === null ? "–" : m.offset.toPrecision(2)}</b>, ITAE{" "}
              <b>{m.itae === null ? "–" : m.itae.toPrecision(3)}</b>, travel{" "}
              <b>{m.travel === null ? "–" : m.travel.toPrecision(3)}</b>, noise to the actuator{" "}
              <b>{m.noise_out === null ? "–" : m.noise_out.toPrecision(2)}</b>.
            </p>
          ) : (
            <p className="bench-note warning">Not judged: {run.why_not}.</p>
          )}
          {run.relay && (
            <p>
              It swings like a relay’s: edge at a gain of <b>{run.relay.ku.toPrecision(3)}</b>, a swing lasts{" "}
              <b>{run.relay.tu_s.toPrecision(3)} s</b>, over {run.relay.swings} swings.{" "}
              <Button
                size="sm"
                variant="outline-primary"
                onClick={() =>
                  run.relay &&
                  onTake({ kp: 0.45 * run.relay.ku, ki: (0.45 * run.relay.ku * 1.2) / run.relay.tu_s, kd: 0 })
                }
              >
                Take 0.45 Ku, Tu/1.2
              </Button>
            </p>
          )}
        </>
      )}
    </section>
  );
}
