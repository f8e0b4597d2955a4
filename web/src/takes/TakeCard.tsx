import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { rate } from "../line/words";
import { dayAndTime } from "../units/dates";
import { grouped } from "../units/units";
import { TraceStrip } from "./TraceStrip";
import type { Take } from "./queries";
import { duration } from "./words";

interface Props {
  take: Take;
  isChosen: boolean;
  isPutAway: boolean;
  onChoose: (isChosen: boolean) => void;
  onPlay: () => void;
  onAway: () => void;
  onBack: () => void;
}

/** One recording: what it looks like, and what it is. */
export function TakeCard({ take, isChosen, isPutAway, onChoose, onPlay, onAway, onBack }: Props) {
  return (
    <li className="take-card">
      <Form.Check
        aria-label={`Choose ${take.name}`}
        checked={isChosen}
        onChange={(event) => onChoose(event.target.checked)}
      />
      <div className="take-words">
        <h2>
          <Link to={`/rigs/${take.rig_id}/recordings/${take.id}`}>{take.name}</Link>
          {take.state === "cut" && (
            <span className="badge-cut" title="Tick Stone ended before it was stopped; all that was written is here.">
              ✂ cut
            </span>
          )}
          {take.state === "open" && <span className="badge-cut">● recording</span>}
          {take.tags.map((one) => (
            <span key={one} className="tag is-small">
              {one}
            </span>
          ))}
        </h2>
        <p>
          {duration(take.duration_s)} on {dayAndTime(take.recorded_at)}
        </p>
        <p className="quiet">
          {channelsSay(take)} · {grouped(take.samples, 0)} samples, {rate(take.rate_hz)} a second
          {take.bad_lines > 0 && ` · ${grouped(take.bad_lines, 0)} line${take.bad_lines === 1 ? "" : "s"} aside`}
          {take.gaps.length > 0 && ` · ${take.gaps.length} gap${take.gaps.length === 1 ? "" : "s"}`}
        </p>
      </div>
      <TraceStrip take={take} />
      <span className="take-actions">
        {isPutAway ? (
          <Button size="sm" variant="outline-primary" onClick={onBack}>
            Bring back
          </Button>
        ) : (
          <>
            <Button size="sm" variant="outline-primary" disabled={take.samples === 0} onClick={onPlay}>
              Replay
            </Button>
            <Button size="sm" variant="outline-primary" disabled={take.state === "open"} onClick={onAway}>
              Remove
            </Button>
          </>
        )}
      </span>
    </li>
  );
}

/** Such as “echo of Left ranger” or “front, left and 3 more”. */
function channelsSay(take: Take): string {
  const [first] = take.channels;
  if (take.channels.length === 1 && first)
    return first.sensor_name ? `${first.name} of ${first.sensor_name}` : first.name;
  const names = take.channels.slice(0, 4).map((channel) => channel.name);
  const more = take.channels.length - names.length;
  return names.join(", ") + (more > 0 ? ` and ${more} more` : "");
}
