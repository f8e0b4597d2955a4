import { grouped } from "../units/units";
import type { Version } from "./queries";

interface Props {
  versions: Version[];
  letters: string[];
}

/** Counts, dwell and chatter of every state, versions side by side. */
export function StayTable({ versions, letters }: Props) {
  const run = versions
    .map((version, place) => ({ version, letter: letters[place] ?? "" }))
    .filter(({ version }) => !version.error);
  if (run.length === 0) return null;
  const states = [...new Set(run.flatMap(({ version }) => version.states))];
  const many = run.length > 1;
  return (
    <div className="stay-holder">
      <table className="mark-table stay-table">
        <caption className="visually-hidden">How often in each state, and for how long</caption>
        <thead>
          <tr>
            <th scope="col">State</th>
            {run.map(({ letter }) =>
              [
                ["visits", "times"],
                ["share", "of the time"],
                ["dwell", "from … to, s"],
                ["chatter", "led straight back"],
              ].map(([key, word]) => (
                <th key={`${letter}${key}`} scope="col" className="figure">
                  {many ? `${letter} ` : ""}
                  {word}
                </th>
              )),
            )}
          </tr>
        </thead>
        <tbody>
          {states.map((state) => (
            <tr key={state}>
              <th scope="row">{state}</th>
              {run.map(({ version, letter }) => {
                const one = version.stays.find((each) => each.state === state);
                if (!one || one.visits === 0) {
                  return ["v", "s", "d", "c"].map((key) => (
                    <td key={letter + key} className="figure quiet">
                      {key === "v" ? (one ? "never" : "not there") : ""}
                    </td>
                  ));
                }
                return [
                  <td key={`${letter}v`} className="figure">
                    {one.visits}
                  </td>,
                  <td key={`${letter}s`} className="figure">
                    {grouped(100 * one.share, 1)} %
                  </td>,
                  <td key={`${letter}d`} className="figure">
                    {grouped(one.shortest_s ?? 0, 2)} … {grouped(one.longest_s ?? 0, 2)}
                  </td>,
                  <td key={`${letter}c`} className={`figure ${one.chatter > 0 ? "is-chatter" : "quiet"}`}>
                    {one.chatter > 0 ? one.chatter : "–"}
                  </td>,
                ];
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
