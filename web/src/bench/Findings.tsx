import type { Finding } from "../api/queries";

const ORDER: Finding["severity"][] = ["error", "warning", "note"];
const SHAPES: Record<Finding["severity"], string> = { error: "■", warning: "▲", note: "●" };

/** What Tick Stone thinks, worst first. */
export function Findings({ findings, open, onToggle }: { findings: Finding[]; open: boolean; onToggle: () => void }) {
  const sorted = [...findings].sort((a, b) => ORDER.indexOf(a.severity) - ORDER.indexOf(b.severity));
  return (
    <aside className="findings" aria-label="Findings">
      <button type="button" className="findings-toggle" aria-expanded={open} onClick={onToggle}>
        <span>Findings</span> <span className="count">{findings.length}</span>
      </button>
      {open && sorted.length === 0 && <p className="quiet">Nothing to say so far.</p>}
      {open &&
        sorted.map((finding) => (
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
        ))}
    </aside>
  );
}
