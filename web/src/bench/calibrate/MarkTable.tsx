import Button from "react-bootstrap/Button";
import type { CalibrationKind, Fitted, Mark } from "../../api/queries";
import { markSays } from "../../takes/markSays";
import { readsIn } from "../../units/shown";
import { grouped, useUnits } from "../../units/units";

interface Props {
  kind: CalibrationKind;
  marks: Mark[];
  fitted: Fitted | undefined;
  onEdit: (mark: Mark) => void;
  onRemove: (mark: Mark) => void;
}

/** The marks beside what was read under them, and what the fit leaves over. */
export function MarkTable({ kind, marks, fitted, onEdit, onRemove }: Props) {
  const units = useUnits();
  const asked = kind.asks_for;
  const reads = asked && readsIn(units, asked.shown);
  const told = asked ?? fitted?.reads ?? null;
  const small = told && readsIn(units, told.small);
  // Where a pose says by itself what was true, only what the fit leaves over is worth a column.
  const tellsLeft = asked !== null || (fitted?.spans.some((one) => one.residual !== null) ?? false);
  const long = (si: number | null | undefined) =>
    si != null && reads ? grouped(reads.fromSi(si), reads.decimals + 1) : "–";
  const tellsScatter = !fitted || fitted.spans.some((one) => one.scatter !== null || one.count === 0);
  return (
    <table className="mark-table">
      <thead>
        <tr>
          <th scope="col">Mark</th>
          {asked && (
            <>
              <th scope="col" className="figure">
                true, {reads?.unit}
              </th>
              <th scope="col" className="figure">
                read, {reads?.unit}
              </th>
            </>
          )}
          {tellsLeft && (
            <th scope="col" className="figure">
              left over, {small?.unit}
            </th>
          )}
          <th scope="col" className="figure">
            readings
          </th>
          {tellsScatter && <th scope="col">still?</th>}
          <th scope="col">
            <span className="visually-hidden">change</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {marks.map((mark) => {
          const result = fitted?.spans.find((one) => one.mark_id === mark.id);
          const left = result?.residual;
          return (
            <tr key={mark.id}>
              <th scope="row">
                {markSays(mark)}
                {mark.name && mark.name !== mark.pose && mark.pose && (
                  <span className="quiet"> {markSays({ ...mark, name: "" })}</span>
                )}
              </th>
              {asked && (
                <>
                  <td className="figure">{long(mark.value)}</td>
                  <td className="figure">{long(result?.read)}</td>
                </>
              )}
              {tellsLeft && (
                <td className="figure">
                  {left != null && small
                    ? `${left >= 0 && asked ? "+" : ""}${grouped(small.fromSi(left), small.decimals + 1)}`
                    : "–"}
                </td>
              )}
              <td className="figure">
                {result ? result.count : "–"}
                {result && result.wild > 0 && <span className="quiet"> + {result.wild} wild</span>}
                {result && result.flagged > 0 && <span className="quiet"> + {result.flagged} flagged</span>}
              </td>
              {tellsScatter && (
                <td className={result && !result.is_still ? "is-bad" : ""}>
                  {result?.scatter != null && small
                    ? `${result.is_still ? "yes" : "no"}, ` +
                      `${grouped(small.fromSi(result.scatter), small.decimals)} ${small.unit}`
                    : result
                      ? "nothing heard"
                      : "–"}
                </td>
              )}
              <td className="row-actions">
                <Button
                  size="sm"
                  variant="outline-primary"
                  onClick={() => onEdit(mark)}
                  aria-label={`Change ${markSays(mark)}`}
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
                  aria-label={`Remove ${markSays(mark)}`}
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
