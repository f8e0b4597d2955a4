import type { Step } from "../api/queries";
import { Term } from "../shell/Term";
import { prefixFor } from "../units/prefixes";
import { useReads } from "../units/shown";
import { decimalsFor, grouped } from "../units/units";

/** Parts under this share of the variance are told together. */
const LIGHT = 0.01;

/** What the uncertainty of a step is made of, heaviest first. */
export function Budget({ step }: { step: Step }) {
  const parts = step.components
    .filter((part) => part.contribution !== null)
    .map((part) => ({ ...part, size: Math.abs(part.contribution ?? 0) }))
    .sort((a, b) => b.size - a.size);
  const total = step.u ?? 0;
  const small = useReads(step.small);
  const [size, prefixed] = prefixFor(2 * total, step.unit);
  const isPlain = small.unit === step.unit;
  const [scale, unit] = isPlain ? [1 / size, prefixed] : [small.step(1), small.unit];
  const heavy = parts.filter((part) => (part.size / total) ** 2 >= LIGHT);
  const light = parts.filter((part) => (part.size / total) ** 2 < LIGHT);
  const lightSize = Math.hypot(...light.map((part) => part.size));
  if (parts.length === 0 || total === 0) {
    return (
      <div className="budget">
        <h3>Uncertainty</h3>
        <p className="quiet">This step adds none of its own.</p>
      </div>
    );
  }
  return (
    <div className="budget">
      <h3>
        Uncertainty ± {grouped(2 * total * scale, decimalsFor(2 * total * scale))} {unit}{" "}
        <span className="quiet">
          (<Term word="k = 2" />)
        </span>
      </h3>
      <table>
        <thead className="visually-hidden">
          <tr>
            <th>part</th>
            <th>share of the variance</th>
            <th>±</th>
          </tr>
        </thead>
        <tbody>
          {heavy.map((part) => (
            <tr key={part.name}>
              <th scope="row">
                {part.name}
                <span className="quiet">{explained(part.basis)}</span>
              </th>
              <td className="bar-cell">
                <meter min={0} max={1} value={(part.size / total) ** 2} aria-label={`share of ${part.name}`}>
                  {Math.round(100 * (part.size / total) ** 2)} %
                </meter>
              </td>
              <td className="figure">
                ± {grouped(2 * part.size * scale, decimalsFor(2 * part.size * scale))} {unit}
              </td>
            </tr>
          ))}
          {light.length > 0 && (
            <tr>
              <th
                scope="row"
                colSpan={2}
                className="light"
                title={light.map((part) => `${part.name}: ${part.basis}`).join("\n")}
              >
                under 1 % each: {light.map((part) => part.name).join(", ")}
              </th>
              <td className="figure">
                ± {grouped(2 * lightSize * scale, decimalsFor(2 * lightSize * scale))} {unit}
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

/** The words of a basis, with what “rectangular” means behind it. */
function explained(basis: string) {
  const [before, after] = basis.split("rectangular");
  if (after === undefined) return basis;
  return (
    <>
      {before}
      <Term word="rectangular" />
      {after}
    </>
  );
}
