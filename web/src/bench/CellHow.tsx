import type { Step } from "../api/queries";

/** Formula, numbers put in, result and source of one step. */
export function CellHow({ step }: { step: Step }) {
  return (
    <div className="cell-how">
      <h2>{step.label}</h2>
      <p className="formula">{step.formula}</p>
      <p className="filled">
        {step.filled}
        {step.value !== null && step.unit && <b> = {step.shown} {step.unit}</b>}
      </p>
      {step.note && <p>{step.note}</p>}
      <p className="quiet">Source: {step.source}.</p>
    </div>
  );
}
