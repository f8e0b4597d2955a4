import type { Schemas } from "../api/client";
import type { Values } from "../units/inputs";
import { measuredIn, readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";

type DigestOut = Schemas["DigestOut"];
type Stretch = DigestOut["stretches"][number];
type Figure = Stretch["figures"][number];

interface TableProps {
  digest: DigestOut;
  head: string;
}

/** A row for each stretch: good for many laps. */
export function FiguresAcross({ digest, head }: TableProps) {
  const units = useUnits();
  return (
    <table className="mark-table">
      <thead>
        <tr>
          <th scope="col">{head}</th>
          {digest.stretches[0]?.figures.map((one) => (
            <th key={one.name} scope="col" className="figure" title={one.how}>
              {one.label} <small>{readsIn(units, one.shown).unit}</small>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {digest.stretches.map((stretch) => (
          <tr key={stretch.lap}>
            <th scope="row">{stretchSaid(stretch)}</th>
            {stretch.figures.map((one) => (
              <FigureCell key={one.name} figure={one} />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface DownProps extends TableProps {
  now: Values;
  onTry: (sets: Figure["sets"]) => void;
}

/** A row for each figure: good for many figures. What one suggests is tried by one press. */
export function FiguresDown({ digest, head, now, onTry }: DownProps) {
  const units = useUnits();
  return (
    <table className="mark-table">
      <thead>
        <tr>
          <th scope="col">{head}</th>
          {digest.stretches.map((stretch) => (
            <th key={stretch.lap} scope="col" className="figure">
              {stretchSaid(stretch)}
            </th>
          ))}
          <th scope="col">how</th>
        </tr>
      </thead>
      <tbody>
        {digest.stretches[0]?.figures.map((one, place) => (
          <tr key={one.name}>
            <th scope="row">
              {one.label}&nbsp;<small>{readsIn(units, one.shown).unit}</small>
            </th>
            {digest.stretches.map((stretch) => {
              const figure = stretch.figures[place];
              return figure && <FigureCell key={stretch.lap} figure={figure} />;
            })}
            <td className="quiet">
              {one.how}
              {Object.keys(one.sets).length > 0 && (
                <>
                  {" · "}
                  <button
                    type="button"
                    className="disclosure"
                    aria-label={`Try it: ${one.label}`}
                    disabled={isSet(now, one.sets)}
                    onClick={() => onTry(one.sets)}
                  >
                    {isSet(now, one.sets) ? "in use" : "Try it"}
                  </button>
                </>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function FigureCell({ figure }: { figure: Figure }) {
  const units = useUnits();
  const reads = readsIn(units, figure.shown);
  if (figure.value === null) return <td className="figure">–</td>;
  if (figure.u === null) return <td className="figure">{grouped(reads.fromSi(figure.value), reads.decimals)}</td>;
  const [value, spread] = measuredIn(reads, figure.value, 2 * figure.u);
  return (
    <td className="figure">
      {value}
      <small>± {spread}</small>
    </td>
  );
}

function stretchSaid(stretch: Stretch): string {
  return stretch.lap ? `lap ${stretch.lap}` : `${grouped(stretch.from_s, 1)} to ${grouped(stretch.to_s, 1)} s`;
}

function isSet(now: Values, sets: Figure["sets"]): boolean {
  return Object.entries(sets).every(([name, value]) => now[name] === value);
}
