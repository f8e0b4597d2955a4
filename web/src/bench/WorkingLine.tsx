import type { AirHeard, Step } from "../api/queries";
import { TrustWords } from "./TrustWords";
import type { Trust } from "./trust";

interface Props {
  /** None while nothing is there to look at. */
  steps: Step[] | undefined;
  /** Whether the calibration in use holds; null when none is asked for. */
  trust: Trust | null;
  air: AirHeard | null;
  open: string | null;
  onOpen: (stage: string) => void;
}

/** The chain as long-hand arithmetic on squared paper, for the reading in hand. */
export function WorkingLine({ steps, trust, air, open, onOpen }: Props) {
  const decision = steps?.find((step) => step.state !== "");
  const measuring = steps?.filter((step) => step.state === "") ?? [];
  const last = measuring.at(-1);
  return (
    <div className="working-line" role="group" aria-label="Working of the reading in hand">
      {measuring.length === 0 && (
        <p className="working-empty">
          {steps
            ? "There is no reading to work on."
            : "Bring in a recording, and the working of each reading stands here."}
        </p>
      )}
      <div className="working-cells">
        {measuring.map((step, place) => (
          <Cell
            key={step.stage}
            step={step}
            isFirst={place === 0}
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
          air={air}
          decision={decision}
          open={open === decision?.stage}
          onOpen={() => decision && onOpen(decision.stage)}
        />
      )}
    </div>
  );
}

interface CellProps {
  step: Step;
  isFirst: boolean;
  isStale: boolean;
  open: boolean;
  onOpen: () => void;
}

function Cell({ step, isFirst, isStale, open, onOpen }: CellProps) {
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
        <span className={step.operand_words ? "cell-words" : ""}>{step.operand_shown}</span>
        {step.operand_unit && <span className="cell-unit">{step.operand_unit}</span>}
      </span>
      <span className="cell-below">{below(step, isFirst)}</span>
      {step.others.map((lane) => (
        <span key={lane.name} className="cell-below cell-lane">
          <i>{lane.name}</i> {lane.shown}
        </span>
      ))}
      {step.beside.map((line) => (
        <span key={line.map((one) => one.stage).join()} className="cell-beside">
          {line.map((one) => `${one.label} ${one.shown} ${one.shown_unit}`.trim()).join(" → ")}
        </span>
      ))}
    </button>
  );
}

/** What stands under a cell: the doubt of what came in first, words of its own, else what came out. */
function below(step: Step, isFirst: boolean): string {
  if (isFirst) return step.status === "ok" ? `± ${step.spread_shown} ${step.shown_unit}` : step.status_word;
  if (step.value === null) return "no value";
  return step.below || `= ${step.shown} ${step.shown_unit}`;
}

interface ResultProps {
  step: Step;
  trust: Trust | null;
  air: AirHeard | null;
  decision: Step | undefined;
  open: boolean;
  onOpen: () => void;
}

function Result({ step, trust, air, decision, open, onOpen }: ResultProps) {
  const hasValue = step.value !== null && step.u !== null;
  return (
    <div className="result">
      <div className="result-figure" data-testid="result">
        <span className="cell-sign">=</span>
        <b>{hasValue ? step.shown : "–"}</b> <span className="cell-unit">{hasValue ? step.shown_unit : ""}</span>
        <span className="cell-below">
          {hasValue ? `± ${step.spread_shown} ${step.shown_unit}` : ""}
          {step.status !== "ok" ? ` ${step.status_word}` : ""}
          <TrustWords trust={trust} air={air} />
        </span>
      </div>
      {decision && (
        <button
          type="button"
          className={`decision decision-${decision.state_look}`}
          aria-expanded={open}
          onClick={onOpen}
        >
          {decision.shown}
        </button>
      )}
    </div>
  );
}
