import { Empty } from "../../shell/States";
import type { Wiring, WiringStep } from "../queries";
import { Bill } from "./Bill";
import { ProgramLines } from "./ProgramLines";
import { SignPanel } from "./SignPanel";
import { StepRow } from "./StepRow";

/** What to do in which order, ticked as it is done and as a second person has seen it. */
export function ListView({ wiring }: { wiring: Wiring }) {
  if (wiring.devices.length === 0) {
    return (
      <Empty title="Nothing to wire yet.">
        <p>Add devices on the plan first.</p>
      </Empty>
    );
  }
  const done = wiring.steps.filter((step) => step.is_complete).length;
  return (
    <div className="wiring-list">
      <p className="figures">
        <span>
          <b>{done}</b> of {wiring.steps.length} steps complete
        </span>
        <span>Never power what only one person has seen.</span>
      </p>
      {inPhases(wiring.steps).map(([heading, steps]) => (
        <section key={heading} aria-label={heading}>
          <h2>{heading}</h2>
          <ol className="steps">
            {steps.map((step) => (
              <StepRow key={step.key} wiring={wiring} step={step} />
            ))}
          </ol>
        </section>
      ))}
      <SignPanel wiring={wiring} />
      <ProgramLines program={wiring.program} />
      <Bill lines={wiring.bill} />
    </div>
  );
}

/** Steps by heading, in their order. */
export function inPhases(steps: WiringStep[]): [string, WiringStep[]][] {
  const phases = new Map<string, WiringStep[]>();
  for (const step of steps) phases.set(step.heading, [...(phases.get(step.heading) ?? []), step]);
  return [...phases];
}
