import { useMemo } from "react";
import { useReads } from "../units/shown";
import { type Line, LoopPlot } from "./LoopPlot";
import type { Runs } from "./queries";

/** What is measured above, what steers it below, of all settings on the bench. */
export function RunPlots({ runs }: { runs: Runs }) {
  const measured = useReads(runs.measured.shown);
  const steered = useReads(runs.steered.shown);
  const above = useMemo<Line[]>(() => {
    const first = runs.runs[0];
    if (!first) return [];
    return [
      { name: "wanted", time_s: first.time_s, values: first.wanted, look: -1, isStepped: true },
      ...(runs.runs.length === 1
        ? [{ name: "read", time_s: first.time_s, values: first.measured, look: 1, isFaint: true }]
        : []),
      ...runs.runs.map((run, n) => ({ name: "ABCD"[n] ?? "", time_s: run.time_s, values: run.true, look: n + 1 })),
    ];
  }, [runs]);
  const below = useMemo<Line[]>(
    () =>
      runs.runs.map((run, n) => ({
        name: "ABCD"[n] ?? "",
        time_s: run.time_s,
        values: run.output,
        look: n + 1,
        isStepped: true,
      })),
    [runs],
  );
  return (
    <div className="loop-plots">
      <span className="loop-axis">
        {runs.measured.name === "number" ? "measured" : runs.measured.name}
        {measured.unit && `, ${measured.unit}`} <i>dashed: wanted</i>
      </span>
      <LoopPlot
        label={`${runs.measured.name} of ${runs.runs.length} settings over time`}
        lines={above}
        reads={measured}
        height={190}
        hasTimes={false}
      />
      <span className="loop-axis">output{steered.unit && `, ${steered.unit}`}</span>
      <LoopPlot label="Output over time" lines={below} reads={steered} height={118} hasTimes />
    </div>
  );
}
