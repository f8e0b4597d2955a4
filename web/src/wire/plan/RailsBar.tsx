import type { Wiring } from "../queries";

/** What each rail gives and what is drawn from it. */
export function RailsBar({ wiring }: { wiring: Wiring }) {
  const rails = wiring.rails.filter((rail) => rail.kind !== "ground" && rail.draws.length > 0);
  if (rails.length === 0) return null;
  return (
    <ul className="rails" aria-label="Supplies">
      {rails.map((rail) => {
        const limit = rail.limit_a ?? rail.peak_a;
        const share = limit > 0 ? Math.min(1, rail.usual_a / limit) : 0;
        const peak = limit > 0 ? Math.min(1, rail.peak_a / limit) : 0;
        return (
          <li key={rail.name} title={rail.draws.map((draw) => `${draw.name} ${milliamps(draw.usual_a)}`).join(", ")}>
            <span className="rail-name">
              <b>{rail.name}</b> {rail.volts.toFixed(1)} V
            </span>
            <span className="rail-bar" aria-hidden="true">
              <span className="rail-peak" style={{ width: `${100 * peak}%` }} />
              <span className={`rail-use ${share >= 1 ? "is-over" : ""}`} style={{ width: `${100 * share}%` }} />
            </span>
            <span className="rail-sum">
              {milliamps(rail.usual_a)}
              {rail.limit_a !== null && <span className="quiet"> of {milliamps(rail.limit_a)}</span>}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

function milliamps(ampere: number): string {
  const value = ampere * 1000;
  return `${value < 10 ? value.toFixed(1) : value.toFixed(0)} mA`;
}
