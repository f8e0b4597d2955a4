import { grouped } from "../units/units";
import type { Saw } from "./queries";

/** What the machine saw at the time in hand, and why it is in the state it is in. */
export function SawPanel({ saw }: { saw: Saw }) {
  return (
    <section className="saw-panel" aria-live="polite" aria-label="What it saw">
      <p>
        At <b>{grouped(saw.at_s, 2)} s</b> it is in <b>{saw.state}</b>, since {grouped(saw.since_s, 2)} s: {saw.why}
        {saw.by.length > 0 && ` (decided by ${saw.by.join(" and ")})`}.
      </p>
      <ul>
        {saw.sights.map((one) => (
          <li key={one.name}>
            <b>{one.name}</b> {one.said}
            {one.who && <span> · by {one.who}</span>}
            {one.status !== "ok" && <span className="saw-status"> {one.status}</span>}
            {one.age_s !== null && <span className="quiet"> {grouped(1000 * one.age_s, 0)} ms old</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
