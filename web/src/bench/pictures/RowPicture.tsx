import type { Step } from "../../api/queries";
import { readsIn, saidIn } from "../../units/shown";
import { useUnits } from "../../units/units";
import type { PictureProps } from "./props";

const WIDTH = 560;
const HEIGHT = 62;
const EDGE = 60;
const CELL = 16;

/** The row from above: each sensor as dark as what it sees, and the line under it with its ±. */
export function RowPicture({ steps, parameters }: PictureProps) {
  const units = useUnits();
  const light = steps.find((step) => step.stage === "lightness");
  const place = steps.find((step) => step.stage === "position");
  if (!light || !place) return null;
  const shares = [light.value, ...light.others.map((lane) => lane.value)];
  const places = placesOf(parameters, shares.length);
  const lineM = numberOf(parameters["line_m"], 0.019);
  const middle = numberOf(parameters["middle_m"], 0);
  const reach = Math.max(...places.map(Math.abs)) + lineM;
  const x = (m: number) => EDGE + ((m + reach) / (2 * reach)) * (WIDTH - 2 * EDGE);
  const isLight = parameters["line_is"] === "light";
  return (
    <svg
      className="row-picture"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={said(place, units)}
      preserveAspectRatio="xMinYMid meet"
    >
      <rect
        className={isLight ? "row-floor is-dark" : "row-floor"}
        x={EDGE}
        width={WIDTH - 2 * EDGE}
        y={8}
        height={34}
      />
      {place.value !== null && (
        <>
          <rect
            className={isLight ? "row-line is-light" : "row-line"}
            x={x(place.value - middle - lineM / 2)}
            width={x(lineM) - x(0)}
            y={8}
            height={34}
          />
          {place.u !== null && (
            <rect
              className="row-doubt"
              x={x(place.value - middle - 2 * place.u)}
              width={Math.max(2, x(4 * place.u) - x(0))}
              y={44}
              height={5}
            />
          )}
          <line className="row-middle" x1={x(place.value - middle)} x2={x(place.value - middle)} y1={6} y2={52} />
        </>
      )}
      <line className="row-cart" x1={x(-middle)} x2={x(-middle)} y1={2} y2={56} />
      {places.map((m, n) => {
        const share = shares[n];
        return (
          <g key={m} transform={`translate(${x(m) - CELL / 2} 17)`}>
            <rect className="row-sensor" width={CELL} height={CELL} rx={3} />
            {typeof share === "number" && (
              <rect
                className="row-dark"
                width={CELL}
                height={CELL}
                rx={3}
                opacity={Math.min(1, Math.max(0, 1 - share))}
              />
            )}
            {typeof share !== "number" && (
              <text x={CELL / 2} y={13} textAnchor="middle" className="row-none">
                ?
              </text>
            )}
          </g>
        );
      })}
      <text x={2} y={29} className="row-word">
        left
      </text>
      <text x={WIDTH - 2} y={29} textAnchor="end" className="row-word">
        right
      </text>
      {place.value === null && (
        <text x={WIDTH / 2} y={58} textAnchor="middle" className="row-word">
          {place.status_word}
        </text>
      )}
    </svg>
  );
}

function said(place: Step, units: ReturnType<typeof useUnits>): string {
  if (place.value === null) return `The row: ${place.status_word}`;
  const reads = readsIn(units, place.small);
  const side = place.value < 0 ? "left" : "right";
  return `The line lies ${saidIn(reads, Math.abs(place.value))} to the ${side}, ${place.status_word}`;
}

function placesOf(parameters: PictureProps["parameters"], count: number): number[] {
  const told = parameters["places_m"];
  const pitch = numberOf(parameters["pitch_m"], 0.01);
  const places =
    Array.isArray(told) && told.length === count
      ? told
      : Array.from({ length: count }, (_, n) => (n - (count - 1) / 2) * pitch);
  return parameters["first_is"] === "right" ? [...places].reverse() : places;
}

const numberOf = (value: unknown, usual: number) => (typeof value === "number" ? value : usual);
