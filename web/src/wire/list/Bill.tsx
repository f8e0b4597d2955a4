import type { BillLine } from "../queries";
import { BandedResistor } from "../plan/BeadGlyph";

/** What to lay out before starting; resistors with their bands as one sees them. */
export function Bill({ lines }: { lines: BillLine[] }) {
  return (
    <section aria-label="Bill of materials" className="bill">
      <h2>Bill of materials</h2>
      <table>
        <thead>
          <tr>
            <th scope="col" className="figure">
              count
            </th>
            <th scope="col">what</th>
            <th scope="col">bands</th>
            <th scope="col">where</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.what + line.detail}>
              <td className="figure">{line.count}</td>
              <td>
                {line.what} {line.what.startsWith("resistor") && <span className="quiet">{line.detail}</span>}
              </td>
              <td>
                {line.bands.length > 0 && (
                  <>
                    <BandedResistor bands={line.bands} width={44} />{" "}
                    <span className="quiet">{line.bands.join(" ")}</span>
                  </>
                )}
              </td>
              <td className="quiet">{line.used_at.join(", ") || (line.bands.length ? "" : line.detail)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
