import Button from "react-bootstrap/Button";
import type { Fitted } from "../../api/queries";

interface Props {
  fitted: Fitted;
  /** Whether something is tried out: what is kept then rests on that. */
  isTrial: boolean;
  saving: boolean;
  onSave: () => void;
}

/** What the marks say together, and keeping it. */
export function FitLine({ fitted, isTrial, saving, onSave }: Props) {
  const broken = fitted.findings.some((finding) => finding.severity === "error");
  return (
    <section className="fit-line" aria-label="Fit">
      <dl className="fit-figures">
        {fitted.certificate.map((line) => (
          <div key={line.label}>
            <dt>{line.label}</dt>
            <dd>{line.text}</dd>
          </div>
        ))}
      </dl>
      <Button disabled={saving} onClick={onSave} variant={broken ? "outline-primary" : "primary"}>
        {broken ? "Keep it all the same" : isTrial ? "Keep it, as tried out" : "Keep this calibration"} <kbd>K</kbd>
      </Button>
    </section>
  );
}
