import { useEffect } from "react";
import { Link } from "react-router";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { grouped } from "../units/units";
import { StateBlocks, StripPatterns } from "./StateStrips";
import { useLiveRules } from "./queries";
import type { Rules } from "./rules";

interface Props {
  rigId: number;
  rules: Rules;
  onNow: (state: string | null) => void;
}

const WIDTH = 860;
const OVER_S = 30;

/** The rules on the open line: what they are in now, and in the last half minute. */
export function LiveView({ rigId, rules, onNow }: Props) {
  const live = useLiveRules(rigId, rules, true);
  const state = live.data?.state || null;
  useEffect(() => onNow(state), [state, onNow]);
  if (live.isError) return <Trouble error={live.error} retry={() => void live.refetch()} />;
  if (!live.data) return <Skeleton lines={4} />;
  const told = live.data;
  if (!told.is_open || told.states.length === 0) {
    return (
      <Empty title="No line is open.">
        <p>
          Open the rig’s line, or a stand-in board’s, and come back: the rules run on what it says.{" "}
          <Link to={`/rigs/${rigId}/line`}>To the line</Link>
        </p>
      </Empty>
    );
  }
  if (told.unheard.length > 0) {
    return (
      <p className="bench-note warning" role="alert">
        The line says nothing of {told.unheard.join(", ")}: the rules do not run without it.
      </p>
    );
  }
  const from = told.until_s - OVER_S;
  const x = (t: number) => ((t - from) / OVER_S) * WIDTH;
  return (
    <section className="live-rules" aria-label="On the line">
      <div className="live-now" aria-live="polite">
        <span className="live-state">{told.state || "…"}</span>
        {told.since_s !== null && <span className="quiet">for {grouped(told.until_s - told.since_s, 1)} s</span>}
        {told.restarts > 0 && (
          <span className="quiet">
            began anew {told.restarts} time{told.restarts === 1 ? "" : "s"}, after nobody looked
          </span>
        )}
      </div>
      <svg className="state-strips" viewBox={`0 0 ${WIDTH} 36`} role="img" aria-label="The last half minute">
        <StripPatterns />
        <StateBlocks visits={told.visits} states={told.states} causes={told.causes} x={x} height={30} />
      </svg>
      <ul className="live-sights">
        {told.sights.map((one) => (
          <li key={one.name}>
            <b>{one.name}</b> {one.said}
            {one.status !== "ok" && <span className="saw-status"> {one.status}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
