import type { LiveStore } from "./LiveStore";
import type { Line } from "./frames";
import { Explained } from "../shell/Explained";
import { grouped } from "../units/units";
import { jitter, rate } from "./words";

interface Props {
  line: Line;
  store: LiveStore;
  isCut: boolean;
}

const STATES = { live: "live", lost: "cable out", ended: "closed" } as const;

/** How the line does: its state, rate, evenness, and what did not fit. */
export function LineStrip({ line, store, isCut }: Props) {
  return (
    <dl className="line-strip" aria-label="How the line does">
      <div>
        <dt>line</dt>
        <dd className={`line-state is-${isCut ? "lost" : line.state}`}>{isCut ? "server away" : STATES[line.state]}</dd>
      </div>
      <Figure name="lines a second" value={rate(line.rate_hz)} />
      <Figure name="jitter" value={jitter(line.jitter_us)} />
      <Figure
        name="values missing"
        value={grouped(line.missing, 0)}
        isBad={line.missing > 0.02 * Math.max(1, line.rows)}
      />
      <Figure name="bad lines" value={grouped(line.bad, 0)} isBad={line.bad > 0} />
      <Figure
        name="never came"
        value={line.never_came === 0 ? "–" : `${grouped(line.never_came, 0)} line${line.never_came === 1 ? "" : "s"}`}
        title="Lines that the board’s own count says it sent"
        isBad={line.never_came > 0}
      />
      <Figure name="cable out" value={line.lost === 0 ? "never" : `${line.lost} ×`} isBad={line.lost > 0} />
      <Figure
        name="delay"
        value={store.delayMs === null ? "–" : `${grouped(store.delayMs, 0)} ms`}
        title="From a sample’s arrival to the picture of it"
      />
    </dl>
  );
}

function Figure({
  name,
  value,
  title,
  isBad = false,
}: {
  name: string;
  value: string;
  title?: string;
  isBad?: boolean;
}) {
  return (
    <div title={title}>
      <dt>
        <Explained text={name} />
      </dt>
      <dd className={isBad ? "is-bad" : ""}>{value}</dd>
    </div>
  );
}
