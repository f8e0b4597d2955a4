import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import InputGroup from "react-bootstrap/InputGroup";
import { type Wiring, type WiringStep, useWiringChanges } from "../queries";
import { PendingCheck } from "../PendingCheck";
import { wireColour } from "../wireColours";
import { numberOrNull } from "../../units/typed";

/** One step: what to do, a tick when it is done, another when a second person has seen it. */
export function StepRow({ wiring, step }: { wiring: Wiring; step: WiringStep }) {
  const changes = useWiringChanges(wiring);
  return (
    <li className={`step ${step.is_complete ? "is-complete" : ""}`}>
      {step.low_v === null ? (
        <span className="step-ticks">
          <PendingCheck
            id={`done ${step.key}`}
            label="done"
            checked={step.done}
            aria-label={`Done: ${step.text}`}
            onToggle={(done) => changes.tick(step.key, { done })}
          />
          {step.needs_second && (
            <PendingCheck
              id={`seen ${step.key}`}
              label="seen"
              checked={step.seen}
              disabled={!step.done}
              aria-label={`Seen by a second person: ${step.text}`}
              onToggle={(seen) => changes.tick(step.key, { seen })}
            />
          )}
        </span>
      ) : (
        <Measured
          key={step.measured_v}
          step={step}
          onMeasured={(volts) => void changes.tick(step.key, { measured_v: volts })}
        />
      )}
      <span className="step-words">
        {step.colour && (
          <span className="wire-swatch" style={{ background: wireColour(step.colour) }} aria-hidden="true" />
        )}
        {step.text}
        {step.low_v !== null && step.high_v !== null && (
          <span className="quiet">
            {" "}
            {step.low_v.toFixed(2)} to {step.high_v.toFixed(2)} V is right.
          </span>
        )}
        {step.low_v !== null && step.measured_v === null && (
          <Skipped
            key={step.skipped_why}
            step={step}
            onSkipped={(why) => void changes.tick(step.key, { skipped_why: why })}
          />
        )}
        {step.caution && <span className="step-caution">{step.caution}</span>}
      </span>
    </li>
  );
}

function Measured({ step, onMeasured }: { step: WiringStep; onMeasured: (volts: number | null) => void }) {
  const [text, setText] = useState(step.measured_v === null ? "" : String(step.measured_v));
  const volts = numberOrNull(text, "V");
  const isNumber = volts !== null && Math.abs(volts) <= 100;

  function keep() {
    const next = text.trim() === "" ? null : isNumber ? volts : undefined;
    if (next !== undefined && next !== step.measured_v) onMeasured(next);
  }

  return (
    <span className="step-measured">
      <InputGroup size="sm">
        <Form.Control
          inputMode="decimal"
          autoComplete="off"
          aria-label={`Measured: ${step.text}`}
          value={text}
          isInvalid={text.trim() !== "" && !isNumber}
          onChange={(event) => setText(event.target.value)}
          onBlur={keep}
          onKeyDown={(event) => event.key === "Enter" && keep()}
        />
        <InputGroup.Text>V</InputGroup.Text>
      </InputGroup>
      <span className={`verdict ${step.passes === null ? "" : step.passes ? "passes" : "fails"}`}>
        {step.passes === null ? "" : step.passes ? "✓ right" : "✕ wrong"}
      </span>
    </span>
  );
}

/** A measurement that is not made says why; what says nothing stays open. */
function Skipped({ step, onSkipped }: { step: WiringStep; onSkipped: (why: string) => void }) {
  const [isOpen, setOpen] = useState(false);
  const [why, setWhy] = useState("");
  if (step.skipped_why) {
    return (
      <span className="step-skipped">
        Not measured: {step.skipped_why}.{" "}
        <button type="button" className="link" onClick={() => onSkipped("")}>
          Open it again
        </button>
      </span>
    );
  }
  if (!isOpen) {
    return (
      <>
        {" "}
        <button
          type="button"
          className="link"
          aria-label={`Skip with a reason: ${step.text}`}
          onClick={() => setOpen(true)}
        >
          Skip…
        </button>
      </>
    );
  }
  return (
    <form
      className="step-skipped"
      onSubmit={(event) => {
        event.preventDefault();
        if (why.trim()) onSkipped(why);
      }}
    >
      <Form.Control
        size="sm"
        autoFocus
        maxLength={200}
        placeholder="why it is not measured"
        aria-label={`Why not measured: ${step.text}`}
        value={why}
        onChange={(event) => setWhy(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && setOpen(false)}
      />
      <Button type="submit" size="sm" variant="outline-primary" disabled={!why.trim()}>
        Skip it
      </Button>
      <Button size="sm" variant="link" onClick={() => setOpen(false)}>
        Cancel
      </Button>
    </form>
  );
}
