import { useState } from "react";
import type { Schemas } from "../api/client";
import { Budget } from "../bench/Budget";

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
            <button key={one.stage} type="button" className={`cell ${open === one.stage ? "is-open" : ""}`} aria-expanded={open === one.stage} onClick={() => setOpen(open === one.stage ? null : one.stage)}>
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

const PREFIXES: [number, string][] = [
  [1e6, "M"],
  [1e3, "k"],
  [1, ""],
  [1e-3, "m"],
  [1e-6, "µ"],
  [1e-9, "n"],
];

function short(step: Step): string {
  if (step.value === null) return "–";
  if (!["Ω", "A", "V", "W", "s", "Hz", "F"].includes(step.unit) || step.value === 0) return `${Number(step.value.toPrecision(4))} ${step.unit}`.trim();
  const [scale, prefix] = PREFIXES.find(([size]) => Math.abs(step.value ?? 0) >= size * 0.9999) ?? [1e-12, "p"];
  return `${Number((step.value / scale).toPrecision(4))} ${prefix}${step.unit}`;
}
