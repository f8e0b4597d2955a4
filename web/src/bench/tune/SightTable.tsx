import { useQuery } from "@tanstack/react-query";
import Form from "react-bootstrap/Form";
import { type Schemas, body, client } from "../../api/client";
import { grouped } from "../../units/units";
import { asTrial } from "../draft";
import type { BenchProps } from "../types";

type Row = Schemas["TableRowOut"];
type Word = Schemas["TableWordOut"];

interface Props {
  bench: BenchProps;
  rows: Row[];
  words: Word[];
  /** The table in hand, a letter for each row. */
  letters: string;
  onLetters: (letters: string) => void;
}

const HOLE = "-";

/** What a row may see and what is done at each sight, beside how often a recording holds it. */
export function SightTable({ bench, rows, words, letters, onLetters }: Props) {
  const seen = useSights(bench);
  const usual = rows.filter((row) => row.is_usual);
  const odd = rows.filter((row) => !row.is_usual);
  const set = (row: Row, letter: string) =>
    onLetters(letters.slice(0, row.number) + letter + letters.slice(row.number + 1));
  const table = (shown: Row[]) => (
    <table className="mark-table sights">
      <thead>
        <tr>
          <th scope="col">sees</th>
          <th scope="col">which is</th>
          <th scope="col">does</th>
          <th scope="col" className="figure">
            visits
          </th>
          <th scope="col" className="figure">
            in all, s
          </th>
          <th scope="col" className="figure">
            chatters
          </th>
        </tr>
      </thead>
      <tbody>
        {shown.map((row) => {
          const letter = letters[row.number] ?? row.letter;
          const visits = seen?.get(`visits_${row.number}`);
          const chatter = seen?.get(`chatter_${row.number}`) ?? 0;
          return (
            <tr key={row.number} className={seen && visits === undefined ? "is-unseen" : ""}>
              <th scope="row">
                <span className="sight" role="img" aria-label={`${row.name}: ${said(row.picture)}`}>
                  {row.picture}
                </span>
              </th>
              <td>
                <b>{row.name}</b> <span className="quiet">{row.meaning}</span>
              </td>
              <td>
                <Form.Select
                  size="sm"
                  aria-label={`What to do at ${said(row.picture)}`}
                  className={letter === HOLE ? "is-invalid" : ""}
                  value={letter}
                  onChange={(event) => set(row, event.target.value)}
                >
                  <option value={HOLE}>nothing said</option>
                  {words.map((one) => (
                    <option key={one.letter} value={one.letter}>
                      {one.word}
                    </option>
                  ))}
                </Form.Select>
              </td>
              <td className="figure">{visits === undefined ? (seen ? "never" : "–") : grouped(visits, 0)}</td>
              <td className="figure">{visits === undefined ? "" : grouped(seen?.get(`time_${row.number}`) ?? 0, 1)}</td>
              <td className={chatter > 0 ? "figure is-bad" : "figure"}>
                {visits === undefined ? "" : grouped(chatter, 0)}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
  return (
    <section className="in-a-sheet sight-table" aria-label="What it does at what it sees">
      {table(usual)}
      {odd.length > 0 && (
        <details className="more-fields">
          <summary>{odd.length} sights in which the line is seen in two places</summary>
          {table(odd)}
        </details>
      )}
    </section>
  );
}

/** How often this recording holds each sight, by figure; null while that is not known. */
function useSights({ recording, draft, range }: BenchProps): Map<string, number> | null {
  const path = { recording_id: recording?.id ?? 0, name: "line-states" };
  const request = { from_s: range?.[0] ?? null, to_s: range?.[1] ?? null, draft: asTrial(draft) };
  const found = useQuery({
    queryKey: ["digest", path, request],
    enabled: recording !== null,
    retry: false,
    queryFn: () =>
      body(client.POST("/api/recordings/{recording_id}/digests/{name}", { params: { path }, body: request })),
  });
  const whole = found.data?.stretches[0];
  if (!whole) return null;
  return new Map(whole.figures.flatMap((one) => (one.value === null ? [] : [[one.name, one.value] as const])));
}

/** A picture as words, from left to right. */
function said(picture: string): string {
  return [...picture].map((one) => (one === "■" ? "on" : "off")).join(" ");
}
