import type { Wiring, WiringFinding } from "../queries";
import { pinWords } from "./pinWords";
import { SHAPES } from "../../shell/severity";

/** The worst of some findings in one line, and how many more there are. */
export function Verdict({ findings, none }: { findings: WiringFinding[]; none: string }) {
  const [worst, ...more] = findings;
  if (!worst) return <p className="loom-verdict verdict-none">✓ {none}</p>;
  return (
    <p className={`loom-verdict finding-${worst.severity}`}>
      <span className="finding-shape" role="img" aria-label={worst.severity}>
        {SHAPES[worst.severity]}
      </span>{" "}
      {worst.happens}: {worst.message}
      {more.length > 0 && <span className="quiet"> And {more.length} more.</span>}
    </p>
  );
}

/** Volts at a pin in each of its states, a line each. */
export function Volts({ pins, place }: { pins: Wiring["pins"]; place: string }) {
  const lines = pinWords(pins.find((one) => one.name === place)?.states ?? []);
  return lines.map((line) => (
    <p key={line} className="loom-small">
      {line}
    </p>
  ));
}
