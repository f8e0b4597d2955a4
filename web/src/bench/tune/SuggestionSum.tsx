import type { Schemas } from "../../api/client";
import { readsIn, saidIn } from "../../units/shown";
import { useUnits } from "../../units/units";

type Suggestion = Schemas["SuggestionOut"];

/** What speaks for a rule as a sum, drawn to scale. */
export function SuggestionSum({ suggestion }: { suggestion: Suggestion }) {
  const units = useUnits();
  // Where there are lanes, a picture tells their parts.
  const parts = suggestion.lanes.length > 0 ? [] : suggestion.parts.filter((part) => !part.is_total);
  const total = suggestion.parts.find((part) => part.is_total);
  // What is taken off cannot be drawn beside what it is taken off from.
  const isDrawn = total !== undefined && parts.every((part) => part.value >= 0);
  const said = (part: Suggestion["parts"][number]) => saidIn(readsIn(units, part.quantity.shown), part.value);
  return (
    <div className="suggestion-sum">
      {isDrawn && (
        <div className="sum-bar" aria-hidden="true">
          {parts.map((part, index) => (
            <span key={part.label} className={`sum-part part-${index}`} style={{ flexGrow: 1000 * part.value }} />
          ))}
        </div>
      )}
      <table>
        <tbody>
          {parts.map((part, index) => (
            <tr key={part.label}>
              <th scope="row">
                {isDrawn && <span className={`key part-${index}`} aria-hidden="true" />} {part.label}{" "}
                <span className="quiet">{part.note}</span>
              </th>
              <td className="figure">{said(part)}</td>
            </tr>
          ))}
          {total && (
            <tr className="total">
              <th scope="row">{total.label}</th>
              <td className="figure" data-testid="needed">
                {said(total)}
              </td>
            </tr>
          )}
        </tbody>
      </table>
      <p className="quiet">{suggestion.note}</p>
    </div>
  );
}
