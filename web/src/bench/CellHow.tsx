import type { Step } from "../api/queries";
import { Explained } from "../shell/Explained";

/** Formula, numbers put in, result and source of one step. */
export function CellHow({ step }: { step: Step }) {
  return (
    <div className="cell-how">
      <h2>
        <Explained text={step.label} />
      </h2>
      <p className="formula">{step.formula}</p>
      <p className="filled">
        {step.filled}
        {step.value !== null && step.unit && (
          <b>
            {" "}
            = {step.shown} {step.shown_unit}
          </b>
        )}
      </p>
      {step.note && (
        <p>
          <Explained text={step.note} />
        </p>
      )}
      <p className="quiet">Source: {step.source}.</p>
    </div>
  );
}
