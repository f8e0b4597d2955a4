import type { Step, View } from "../api/queries";
import { type UnitSystem, measured, useUnits } from "../units/units";

interface Props {
  view: Pick<View, "working"> | undefined;
  /** The calibration in use has lost its grounds. */
  isStale: boolean;
  open: string | null;
  onOpen: (stage: string) => void;
}

/** The chain as long-hand arithmetic on squared paper, for the reading in hand. */
export function WorkingLine({ view, isStale, open, onOpen }: Props) {
  const steps = view?.working ?? [];
  const decision = steps.find((step) => step.stage === "threshold");
  const measuring = steps.filter((step) => step.stage !== "threshold");
  const last = measuring.at(-1);
  return (
    <div className="working-line" role="group" aria-label="Working of the reading in hand">
      {steps.length === 0 && (
        <p className="working-empty">
          {view ? "There is no reading to work on." : "Bring in a recording, and the working of each reading stands here."}
        </p>
      )}
      <div className="working-cells">
        {measuring.map((step) => (
          <Cell key={step.stage} step={step} isStale={isStale && step.stage === "calibration"} open={open === step.stage} onOpen={() => onOpen(step.stage)} />
        ))}
      </div>
      {last && <Result step={last} decision={decision} open={open === "threshold"} onOpen={() => onOpen("threshold")} />}
    </div>
  );
}

function Cell({ step, isStale, open, onOpen }: { step: Step; isStale: boolean; open: boolean; onOpen: () => void }) {
  const word = step.stage === "range";
  const units = useUnits();
  return (
    <button type="button" className={`cell ${open ? "is-open" : ""}`} aria-expanded={open} onClick={onOpen} title={step.formula}>
      <span className="cell-label">
        {step.label}
        {isStale && <b className="cell-stale">, stale</b>}
      </span>
      <span className="cell-figure">
        {step.sign && <span className="cell-sign">{step.sign}</span>}
        <span className={word ? "cell-words" : ""}>{step.operand_shown}</span>
        {step.operand_unit && <span className="cell-unit">{step.operand_unit}</span>}
      </span>
      <span className="cell-below">{below(step, units)}</span>
    </button>
  );
}

function below(step: Step, units: UnitSystem): string {
  if (step.stage === "echo") return step.status === "ok" ? `± ${step.spread_shown} µs` : step.status.replace("_", " ");
  if (step.stage === "air") return step.operand_note;
  if (step.value === null) return "no value";
  if (step.unit !== "m" || step.u === null) return `= ${step.shown} ${step.unit}`;
  const [value, , unit] = measured(units, "length", step.value, 2 * step.u);
  return `= ${value} ${unit}`;
}

function Result({ step, decision, open, onOpen }: { step: Step; decision: Step | undefined; open: boolean; onOpen: () => void }) {
  const units = useUnits();
  const status = step.status.replace("_", " ");
  const [value, spread, unit] =
    step.value !== null && step.u !== null ? measured(units, "length", step.value, 2 * step.u) : ["–", "", ""];
  return (
    <div className="result">
      <div className="result-figure" data-testid="result">
        <span className="cell-sign">=</span>
        <b>{value}</b> <span className="cell-unit">{unit}</span>
        <span className="cell-below">{spread ? `± ${spread} ${unit}` : ""}{step.status !== "ok" ? ` ${status}` : ""}</span>
      </div>
      {decision && (
        <button type="button" className={`decision decision-${decision.shown.split(":")[0]}`} aria-expanded={open} onClick={onOpen}>
          {decision.shown}
        </button>
      )}
    </div>
  );
}
