import type { Step, View } from "../api/queries";
import { type Trust, trustWords } from "./trust";

interface Props {
  view: Pick<View, "working"> | undefined;
  /** Whether the calibration in use holds; null when none is asked for. */
  trust: Trust | null;
  open: string | null;
  onOpen: (stage: string) => void;
}

/** The chain as long-hand arithmetic on squared paper, for the reading in hand. */
export function WorkingLine({ view, trust, open, onOpen }: Props) {
  const steps = view?.working ?? [];
  const decision = steps.find((step) => step.stage === "threshold");
  const measuring = steps.filter((step) => step.stage !== "threshold");
  const last = measuring.at(-1);
  return (
    <div className="working-line" role="group" aria-label="Working of the reading in hand">
      {steps.length === 0 && (
        <p className="working-empty">
          {view
            ? "There is no reading to work on."
            : "Bring in a recording, and the working of each reading stands here."}
        </p>
      )}
      <div className="working-cells">
        {measuring.map((step) => (
          <Cell
            key={step.stage}
            step={step}
            isStale={trust?.state === "stale" && step.stage === "calibration"}
            open={open === step.stage}
            onOpen={() => onOpen(step.stage)}
          />
        ))}
      </div>
      {last && (
        <Result
          step={last}
          trust={trust}
          decision={decision}
          open={open === "threshold"}
          onOpen={() => onOpen("threshold")}
        />
      )}
    </div>
  );
}

function Cell({ step, isStale, open, onOpen }: { step: Step; isStale: boolean; open: boolean; onOpen: () => void }) {
  const word = step.stage === "range";
  return (
    <button
      type="button"
      className={`cell ${open ? "is-open" : ""}`}
      aria-expanded={open}
      onClick={onOpen}
      title={step.formula}
    >
      <span className="cell-label">
        {step.label}
        {isStale && <b className="cell-stale">, stale</b>}
      </span>
      <span className="cell-figure">
        {step.sign && <span className="cell-sign">{step.sign}</span>}
        <span className={word ? "cell-words" : ""}>{step.operand_shown}</span>
        {step.operand_unit && <span className="cell-unit">{step.operand_unit}</span>}
      </span>
      <span className="cell-below">{below(step)}</span>
    </button>
  );
}

function below(step: Step): string {
  if (step.stage === "echo") return step.status === "ok" ? `± ${step.spread_shown} µs` : step.status.replace("_", " ");
  if (step.stage === "air") return step.operand_note;
  if (step.value === null) return "no value";
  return `= ${step.shown} ${step.shown_unit}`;
}

function Result({
  step,
  trust,
  decision,
  open,
  onOpen,
}: {
  step: Step;
  trust: Trust | null;
  decision: Step | undefined;
  open: boolean;
  onOpen: () => void;
}) {
  const status = step.status.replace("_", " ");
  const hasValue = step.value !== null && step.u !== null;
  return (
    <div className="result">
      <div className="result-figure" data-testid="result">
        <span className="cell-sign">=</span>
        <b>{hasValue ? step.shown : "–"}</b> <span className="cell-unit">{hasValue ? step.shown_unit : ""}</span>
        <span className="cell-below">
          {hasValue ? `± ${step.spread_shown} ${step.shown_unit}` : ""}
          {step.status !== "ok" ? ` ${status}` : ""}
          {trustWords(trust) && (
            <span className="trust-words" title={trust?.reason}>
              {trustWords(trust)}
            </span>
          )}
        </span>
      </div>
      {decision && (
        <button
          type="button"
          className={`decision decision-${decision.shown.split(":")[0]}`}
          aria-expanded={open}
          onClick={onOpen}
        >
          {decision.shown}
        </button>
      )}
    </div>
  );
}
