import type { ReactNode } from "react";
import Button from "react-bootstrap/Button";
import type { Finding } from "../api/queries";
import { FindingCounts } from "../bench/Findings";
import { type Wiring, useWiringChanges } from "./queries";
import { Explained } from "../shell/Explained";
import { SHAPES } from "../shell/severity";

interface Props {
  wiring: Wiring;
  /** Only what is about this device. */
  device?: number;
  open: boolean;
  onToggle: () => void;
  /** What stands above them. */
  children?: ReactNode;
}

/** What the checks found, worst first, each with its numbers and what one press would mend. */
export function WiringFindings({ wiring, device, open, onToggle, children }: Props) {
  const changes = useWiringChanges(wiring);
  const findings = wiring.findings.filter(
    (finding) => device === undefined || finding.spots.some((spot) => spot.device === device),
  );
  const mendable = device === undefined ? findings.filter((finding) => finding.repair).length : 0;
  return (
    <aside className="findings" aria-label="Findings">
      {children}
      <button type="button" className="findings-toggle" aria-expanded={open} onClick={onToggle}>
        <span>Findings</span> <FindingCounts severities={findings.map((one) => one.severity as Finding["severity"])} />
      </button>
      {open && findings.length === 0 && (
        <p className="quiet">
          {wiring.devices.length === 0
            ? "Nothing is wired yet."
            : "Nothing stands against this wiring. Look it over all the same."}
        </p>
      )}
      {open && mendable > 1 && (
        <Button size="sm" variant="outline-primary" className="mend-all" onClick={() => void changes.repairAll()}>
          Mend all {mendable}
        </Button>
      )}
      {open &&
        findings.map((finding) => (
          <article key={finding.key} className={`finding finding-${finding.severity}`}>
            <h3>
              <span className="finding-shape" role="img" aria-label={finding.severity}>
                {SHAPES[finding.severity]}
              </span>{" "}
              {finding.message}
            </h3>
            <p className="happens">{finding.happens}</p>
            <p>
              <Explained text={finding.why} />
            </p>
            {finding.numbers.length > 0 && (
              <dl className="finding-numbers">
                {finding.numbers.map((number) => (
                  <div key={number.name}>
                    <dt>{number.name}</dt>
                    <dd>{number.text}</dd>
                  </div>
                ))}
              </dl>
            )}
            {finding.remedies.map((remedy, place) => (
              <div key={remedy} className="repair">
                <p className="remedy">{remedy}</p>
                <Button
                  size="sm"
                  variant={place === 0 ? "primary" : "outline-primary"}
                  onClick={() => void changes.repair(finding, place)}
                >
                  Do it
                </Button>
              </div>
            ))}
            {finding.buy && finding.remedies.length === 0 && <p className="to-get">Get {finding.buy}.</p>}
            <p className="quiet">Source: {finding.source}.</p>
          </article>
        ))}
    </aside>
  );
}
