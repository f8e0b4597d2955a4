import type { Step } from "../api/queries";
import { Budget } from "./Budget";
import { CellHow } from "./CellHow";

/** What stands behind one cell of a live reading; its parameters are changed on the sensor's bench. */
export function CellFacts({ step, onClose }: { step: Step; onClose: () => void }) {
  return (
    <section className="cell-panel" aria-label={`${step.label}: formula, numbers and uncertainty`}>
      <CellHow step={step} />
      <Budget step={step} />
      <button type="button" className="panel-close" aria-label="Close" onClick={onClose}>
        ×
      </button>
    </section>
  );
}
