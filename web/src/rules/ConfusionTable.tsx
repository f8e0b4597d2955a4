import { grouped } from "../units/units";
import type { Confusion, Rate, Version } from "./queries";

interface Props {
  versions: Version[];
  letters: string[];
  onGo: (from: number, to: number) => void;
}

/** Told against true: of every version, where truth was marked. */
export function ConfusionTable({ versions, letters, onGo }: Props) {
  const held = versions.flatMap((version, place) =>
    version.confusion ? [{ confusion: version.confusion, letter: letters[place] ?? "" }] : [],
  );
  if (held.length === 0) return null;
  return (
    <section className="confusions" aria-label="Told against true">
      {held.map(({ confusion, letter }) => (
        <OneConfusion key={letter} confusion={confusion} letter={held.length > 1 ? letter : ""} onGo={onGo} />
      ))}
    </section>
  );
}

interface OneProps {
  confusion: Confusion;
  letter: string;
  onGo: (from: number, to: number) => void;
}

function OneConfusion({ confusion, letter, onGo }: OneProps) {
  const told = confusion.states.map((_, place) => confusion.seconds.some((row) => (row[place] ?? 0) > 0));
  const isTrue = confusion.states.map((_, place) => (confusion.seconds[place] ?? []).some((one) => one > 0));
  return (
    <div className="confusion">
      <h2>
        {letter && `${letter}: `}right for {said(confusion.right)}
      </h2>
      <div className="confusion-row">
        <table className="mark-table confusion-table">
          <thead>
            <tr>
              <th scope="col">true ↓ told →</th>
              {confusion.states.map(
                (state, place) =>
                  told[place] && (
                    <th key={state} scope="col" className="figure">
                      {state}
                    </th>
                  ),
              )}
            </tr>
          </thead>
          <tbody>
            {confusion.states.map(
              (state, row) =>
                isTrue[row] && (
                  <tr key={state}>
                    <th scope="row">{state}</th>
                    {confusion.states.map(
                      (other, column) =>
                        told[column] && (
                          <td
                            key={other}
                            className={`figure ${lookOf(row === column, confusion.seconds[row]?.[column] ?? 0)}`}
                          >
                            {(confusion.seconds[row]?.[column] ?? 0) > 0
                              ? `${grouped(confusion.seconds[row]?.[column] ?? 0, 2)} s`
                              : "–"}
                          </td>
                        ),
                    )}
                  </tr>
                ),
            )}
          </tbody>
        </table>
        <table className="mark-table">
          <thead>
            <tr>
              <th scope="col">State</th>
              <th scope="col" title="Of the stretches marked, those in which it was reached">
                reached
              </th>
              <th scope="col" title="Of its visits to what is marked, those that touch a stretch of its own">
                rightly there
              </th>
              <th scope="col" className="figure" title="After the stretch began: the middle, and the longest">
                took, ms
              </th>
            </tr>
          </thead>
          <tbody>
            {confusion.held.map((one) => (
              <tr key={one.state}>
                <th scope="row">{one.state}</th>
                <td>{said(one.recall_stretches)}</td>
                <td>{said(one.precision_visits)}</td>
                <td className="figure">
                  {one.reaction_median_s === null
                    ? "–"
                    : [one.reaction_median_s, one.reaction_longest_s ?? 0]
                        .map((seconds) => grouped(1000 * seconds, 0))
                        .join(", ")}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {confusion.worst.length > 0 && (
        <div className="worst">
          <span className="quiet">Longest wrong:</span>
          {confusion.worst.slice(0, 6).map((one) => (
            <button
              key={one.from_s}
              type="button"
              className="btn btn-sm btn-outline-primary"
              onClick={() => onGo(one.from_s, one.to_s)}
            >
              {grouped(one.from_s, 1)} s, for {grouped(one.to_s - one.from_s, 2)} s: {one.told} for {one.true}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

const lookOf = (isRight: boolean, seconds: number) => (isRight ? "is-right" : seconds > 0 ? "is-wrong" : "");

/** So many of so many, with what the rate may be. */
function said(rate: Rate): string {
  if (rate.of === 0 || rate.low === null || rate.high === null) return "not known";
  const [low, high] = [rate.low, rate.high].map((end) => grouped(100 * end, 0));
  return `${grouped(rate.hits, 0)} of ${grouped(rate.of, 0)} (${low} to ${high} %)`;
}
