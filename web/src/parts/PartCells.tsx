import { useState } from "react";
import type { Schemas } from "../api/client";
import { Budget } from "../bench/Budget";
import { prefixFor } from "../units/prefixes";

type Step = Schemas["StepOut"];

/** The working of a parts sum as long-hand cells; press one for its numbers and its doubt. */
export function PartCells({ steps }: { steps: Step[] }) {
  const [open, setOpen] = useState<string | null>(null);
  const step = steps.find((one) => one.stage === open);
  return (
    <>
      <div className="working-line part-line" role="group" aria-label="Working">
        <div className="working-cells">
          {steps.map((one) => (
            <button
              key={one.stage}
              type="button"
              className={`cell ${open === one.stage ? "is-open" : ""}`}
              aria-expanded={open === one.stage}
              onClick={() => setOpen(open === one.stage ? null : one.stage)}
            >
              <span className="cell-label">{one.label}</span>
              <span className="cell-figure">
                <span className="cell-words">{one.filled}</span>
              </span>
              <span className="cell-below">= {short(one)}</span>
            </button>
          ))}
        </div>
      </div>
      {step && (
        <section className="cell-panel" aria-label={`${step.label}: formula and uncertainty`}>
          <div className="cell-how">
            <h2>{step.label}</h2>
            <p className="formula">{step.formula}</p>
            <p className="filled">
              {step.filled} <b>= {short(step)}</b>
            </p>
            {step.note && <p>{step.note}</p>}
            <p className="quiet">Source: {step.source}.</p>
          </div>
          {step.components.length > 0 && <Budget step={step} />}
          <button type="button" className="panel-close" aria-label="Close" onClick={() => setOpen(null)}>
            ×
          </button>
        </section>
      )}
    </>
  );
}

function short(step: Step): string {
  if (step.value === null) return "–";
  const [scale, unit] = prefixFor(step.value, step.unit);
  return `${Number((step.value / scale).toPrecision(4))} ${unit}`.trim();
}
