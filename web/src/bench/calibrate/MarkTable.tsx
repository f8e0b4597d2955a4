import Button from "react-bootstrap/Button";
import type { Marks } from "../../api/queries";
import { decimalsOf, display, grouped, useUnits } from "../../units/units";

type Mark = Marks["marks"][number];

interface Props {
  marks: Marks;
  onEdit: (mark: Mark) => void;
  onRemove: (mark: Mark) => void;
}

/** The marks beside what was read under them, and what the fit leaves over. */
export function MarkTable({ marks, onEdit, onRemove }: Props) {
  const units = useUnits();
  const long = display(units, "length");
  const small = display(units, "smallLength");
  const places = decimalsOf(units, "length", 4);
  const smallPlaces = decimalsOf(units, "smallLength", 1);
  const leftPlaces = decimalsOf(units, "smallLength", 2);
  return (
    <table className="mark-table">
      <thead>
        <tr>
          <th scope="col">Mark</th>
          <th scope="col" className="figure">
            true, {long.unit}
          </th>
          <th scope="col" className="figure">
            read, {long.unit}
          </th>
          <th scope="col" className="figure">
            left over, {small.unit}
          </th>
          <th scope="col" className="figure">
            readings
          </th>
          <th scope="col">still?</th>
          <th scope="col">
            <span className="visually-hidden">change</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {marks.marks.map((mark) => {
          const result = marks.fit?.marks.find((one) => one.mark_id === mark.id);
          const left = result?.residual_m;
          return (
            <tr key={mark.id}>
              <th scope="row">{mark.name}</th>
              <td className="figure">{grouped(long.fromSi(mark.true_m), places)}</td>
              <td className="figure">{result?.read_m != null ? grouped(long.fromSi(result.read_m), places) : "–"}</td>
              <td className="figure">
                {left != null ? `${left >= 0 ? "+" : ""}${grouped(small.fromSi(left), leftPlaces)}` : "–"}
              </td>
              <td className="figure">
                {result ? result.count : "–"}
                {result && result.wild > 0 && <span className="quiet"> + {result.wild} wild</span>}
                {result && result.flagged > 0 && <span className="quiet"> + {result.flagged} flagged</span>}
              </td>
              <td className={result && !result.still ? "is-bad" : ""}>
                {result?.scatter_m != null
                  ? `${result.still ? "yes" : "no"}, ` +
                    `${grouped(small.fromSi(result.scatter_m), smallPlaces)} ${small.unit}`
                  : "nothing heard"}
              </td>
              <td className="row-actions">
                <Button
                  size="sm"
                  variant="outline-primary"
                  onClick={() => onEdit(mark)}
                  aria-label={`Change ${mark.name}`}
                >
                  Change
                </Button>
                <Button
                  size="sm"
                  variant="outline-primary"
                  onClick={(event) => {
                    focusNear(event.currentTarget);
                    onRemove(mark);
                  }}
                  aria-label={`Remove ${mark.name}`}
                >
                  Remove
                </Button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Before a row goes, the focus moves to the same button of the row beside it, or to the plot above. */
function focusNear(button: HTMLButtonElement) {
  const row = button.closest("tr");
  const beside = row?.nextElementSibling ?? row?.previousElementSibling;
  const same = [...(beside?.querySelectorAll("button") ?? [])].at(-1);
  (same ?? document.getElementById("work"))?.focus();
}
