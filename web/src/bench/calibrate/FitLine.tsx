import Button from "react-bootstrap/Button";
import type { Marks } from "../../api/queries";
import { decimalsFor, display, grouped, useUnits, quantityText } from "../../units/units";

interface Props {
  fit: NonNullable<Marks["fit"]>;
  saving: boolean;
  onSave: () => void;
}

/** What the marks say together, and keeping it. */
export function FitLine({ fit, saving, onSave }: Props) {
  const units = useUnits();
  const small = display(units, "smallLength");
  const offset = small.fromSi(fit.offset_m);
  const offsetSpread = small.fromSi(2 * fit.offset_u_m);
  const spreadAt1m = small.fromSi(2 * fit.u_at_1m_m);
  const scaleSpread = 2 * fit.scale_u;
  const broken = fit.findings.some((finding) => finding.severity === "error");
  return (
    <section className="fit-line" aria-label="Fit">
      <p className="fit-figures">
        true ={" "}
        <b>
          {`${offset >= 0 ? "+" : ""}${grouped(offset, decimalsFor(offsetSpread))}`} {small.unit}
        </b>
        <span className="quiet"> ± {grouped(offsetSpread, decimalsFor(offsetSpread))}</span> +{" "}
        <b>{fit.scale.toFixed(scaleSpread > 0 ? decimalsFor(scaleSpread) : 0)}</b>
        <span className="quiet">
          {fit.scale_fitted ? ` ± ${scaleSpread.toFixed(decimalsFor(scaleSpread))}` : " (held)"}
        </span>{" "}
        × read
        <span className="fit-quality">
          ± {grouped(spreadAt1m, decimalsFor(spreadAt1m))} {small.unit} at {quantityText(units, "length", 1, 0)}
        </span>
      </p>
      <Button disabled={saving} onClick={onSave} variant={broken ? "outline-primary" : "primary"}>
        {broken ? "Keep it all the same" : "Keep this calibration"} <kbd>K</kbd>
      </Button>
    </section>
  );
}
