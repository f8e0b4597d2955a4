import type { Schemas } from "../../api/client";
import { quantityText, useUnits } from "../../units/units";

type Sum = Schemas["StoppingOut"];

/** The stopping distance as a sum, drawn to scale. */
export function StoppingSum({ sum }: { sum: Sum }) {
  const units = useUnits();
  const length = (si: number) => quantityText(units, "length", si, 3);
  const parts = [
    { name: "driving on unaware", size: sum.travel_blind_m, note: `${Math.round(sum.blind_s * 1000)} ms` },
    { name: "braking", size: sum.travel_braking_m, note: "v²/(2a)" },
    { name: "doubt", size: sum.doubt_m, note: "k = 2" },
    { name: "room to spare", size: sum.margin_m, note: "" },
  ];
  return (
    <div className="stopping-sum">
      <div className="sum-bar" aria-hidden="true">
        {parts.map((part, index) => (
          <span key={part.name} className={`sum-part part-${index}`} style={{ flexGrow: 1000 * part.size }} />
        ))}
      </div>
      <table>
        <tbody>
          {parts.map((part, index) => (
            <tr key={part.name}>
              <th scope="row">
                <span className={`key part-${index}`} aria-hidden="true" /> {part.name}{" "}
                <span className="quiet">{part.note}</span>
              </th>
              <td className="figure">{length(part.size)}</td>
            </tr>
          ))}
          <tr className="total">
            <th scope="row">stopping takes</th>
            <td className="figure" data-testid="stopping-total">
              {length(sum.total_m)}
            </td>
          </tr>
        </tbody>
      </table>
      <p className="quiet">
        A ping every {Math.round(sum.sample_s * 1000)} ms and {Math.round(sum.filter_s * 1000)} ms lag of the median,
        from {sum.note}.
      </p>
    </div>
  );
}
