import type { Finding } from "../api/queries";
import { SHAPES } from "../shell/severity";

const ORDER: Finding["severity"][] = ["error", "warning", "note"];

/** How many findings there are and how bad the worst is: by shape as well, so that it shows when closed. */
export function FindingCounts({ severities }: { severities: Finding["severity"][] }) {
  if (severities.length === 0) return <span className="count">0</span>;
  return (
    <>
      {ORDER.map((severity) => {
        const count = severities.filter((one) => one === severity).length;
        return (
          count > 0 && (
            <span key={severity} className={`count count-${severity}`}>
              <span role="img" aria-label={severity}>
                {SHAPES[severity]}
              </span>{" "}
              {count}
            </span>
          )
        );
      })}
    </>
  );
}

/** Findings one below the other, in the order they come. */
export function FindingList({ findings }: { findings: Finding[] }) {
  return findings.map((finding) => (
    <article key={finding.title + finding.why} className={`finding finding-${finding.severity}`}>
      <h3>
        <span className="finding-shape" role="img" aria-label={finding.severity}>
          {SHAPES[finding.severity]}
        </span>{" "}
        {finding.title}
      </h3>
      <p>{finding.why}</p>
      {finding.remedy && <p className="remedy">{finding.remedy}</p>}
    </article>
  ));
}

interface Props {
  /** None before it was looked for, or where that failed. */
  findings: Finding[] | null;
  open: boolean;
  onToggle: () => void;
}

/** What Tick Stone thinks, worst first. */
export function Findings({ findings, open, onToggle }: Props) {
  const sorted = [...(findings ?? [])].sort((a, b) => ORDER.indexOf(a.severity) - ORDER.indexOf(b.severity));
  return (
    <aside className="findings" aria-label="Findings">
      <button type="button" className="findings-toggle" aria-expanded={open} onClick={onToggle}>
        <span>Findings</span> {findings && <FindingCounts severities={findings.map((one) => one.severity)} />}
      </button>
      {open && !findings && <p className="quiet">Not looked at yet.</p>}
      {open && findings?.length === 0 && <p className="quiet">Nothing to say so far.</p>}
      {open && <FindingList findings={sorted} />}
    </aside>
  );
}
