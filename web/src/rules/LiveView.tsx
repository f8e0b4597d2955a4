import { useEffect } from "react";
import { Link } from "react-router";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { grouped } from "../units/units";
import { StateBlocks, StripPatterns } from "./StateStrips";
import { type Entered, useLiveRules } from "./queries";
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
  const [last, ...before] = told.entered;
  return (
    <section className="live-rules" aria-label="On the line">
      {told.silent_s > 0 && (
        <p className="bench-note warning" role="alert">
          The line has said nothing for {grouped(told.silent_s, 0)} s. This is how it stood then, not how it stands now.
        </p>
      )}
      <div className={told.silent_s > 0 ? "live-now was" : "live-now"}>
        <span className="live-state" aria-live="polite">
          {told.state || "…"}
        </span>
        {last && (
          <span>
            for <b>{grouped(told.until_s - last.at_s, 1)} s</b>: {reason(last)}
          </span>
        )}
        {told.restarts > 0 && (
          <span className="quiet">
            began anew {told.restarts} time{told.restarts === 1 ? "" : "s"}, after nobody looked
          </span>
        )}
      </div>
      <ul className="live-sights">
        {told.sights.map((one) => (
          <li key={one.name}>
            <b>{one.name}</b> {one.said}
            {one.who && <span className="quiet"> by {one.who}</span>}
            {one.status !== "ok" && <span className="saw-status"> {one.status}</span>}
          </li>
        ))}
      </ul>
      <svg className="state-strips" viewBox={`0 0 ${WIDTH} 52`} role="img" aria-label="The last half minute">
        <StripPatterns />
        <StateBlocks visits={told.visits} states={told.states} causes={told.causes} x={x} height={30} />
        <g className="time-axis">
          {[30, 20, 10, 0].map((ago) => (
            <text
              key={ago}
              x={x(told.until_s - ago)}
              y={48}
              textAnchor={ago === 30 ? "start" : ago === 0 ? "end" : "middle"}
            >
              {ago === 0 ? "now" : `−${ago} s`}
            </text>
          ))}
        </g>
      </svg>
      {before.length > 0 && (
        <ol className="live-before" aria-label="States before">
          {before.map((one, place) => (
            <li key={one.at_s}>
              <b>{one.state}</b> for {grouped((told.entered[place]?.at_s ?? told.until_s) - one.at_s, 1)} s:{" "}
              {reason(one)}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

const reason = (one: Entered) => (one.by.length > 0 ? `${one.why}, by ${one.by.join(" and ")}` : one.why);
