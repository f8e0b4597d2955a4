import Button from "react-bootstrap/Button";
import { grouped } from "../units/units";
import type { Study, StudyCell } from "./queries";

interface Props {
  study: Study;
  onAgain: (key: string) => void;
}

/** The plan cell by cell: what is taken, what it gave, and taking one anew. */
export function StudyCells({ study, onAgain }: Props) {
  return (
    <table className="mark-table study-cells">
      <thead>
        <tr>
          <th scope="col">Cell</th>
          <th scope="col" className="figure">
            samples
          </th>
          <th scope="col">what it gave</th>
          <th scope="col" className="no-print">
            <span className="visually-hidden">take anew</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {study.cells.map((cell) => (
          <tr key={cell.key} className={cell.is_taken ? "" : "is-unseen"}>
            <th scope="row">{cell.says}</th>
            <td className="figure">{cell.is_taken ? grouped(cell.samples, 0) : "–"}</td>
            <td>{gave(cell)}</td>
            <td className="row-actions no-print">
              {cell.is_taken && (
                <Button size="sm" variant="outline-primary" onClick={() => onAgain(cell.key)}>
                  Take anew
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function gave(cell: StudyCell): string {
  if (!cell.is_taken) return "not taken yet";
  if (cell.heaps.every((lane) => lane.dark.n === 0)) {
    const read = cell.heaps.map((lane) => grouped(lane.light.mean ?? 0, 0)).join(", ");
    return `${cell.is_lit ? "held still it reads" : "without lamps it reads"} ${read}`;
  }
  const apart = cell.heaps.map((lane) => (lane.why_not ? "merged" : grouped(Math.min(lane.d_prime ?? 0, 999), 0)));
  return `d′ ${apart.join(", ")}`;
}
