import Form from "react-bootstrap/Form";
import { Link, useParams } from "react-router";
import { SensorStones } from "../stones/SensorStones";
import type { Channel, ChannelGroup } from "./channelGroups";
import type { Wanted } from "./queries";

interface Props {
  group: ChannelGroup;
  wanted: Wanted[];
  hand: number | null;
  onDraw: (channel: number, stage: string) => void;
  onHide: (channel: number) => void;
  onHand: (channel: number) => void;
}

const MOST = 12;

/** A sensor with its stones, and its channels: those drawn, how, and those that could be. */
export function TraceHead({ group, wanted, hand, onDraw, onHide, onHand }: Props) {
  const { sensor, channels } = group;
  const recording = channels.find((channel) => channel.recording_id !== null)?.recording_id;
  return (
    <header className="trace-head">
      {sensor ? (
        <Link
          className="trace-sensor"
          to={recording ? `/sensors/${sensor.id}/calibrated?recording=${recording}` : `/sensors/${sensor.id}/wired`}
        >
          {sensor.name}
          <SensorStones stones={sensor.stones} />
        </Link>
      ) : (
        <span className="trace-sensor">{group.name || "of no sensor"}</span>
      )}
      {channels.map((channel) => {
        const shown = wanted.find((one) => one.channel === channel.number);
        return shown ? (
          <DrawnChip
            key={channel.number}
            channel={channel}
            stage={shown.stage}
            isHand={hand === channel.number}
            onDraw={onDraw}
            onHide={onHide}
            onHand={onHand}
          />
        ) : (
          <button
            key={channel.number}
            type="button"
            className="trace-chip is-off"
            aria-label={`Draw ${channel.name}`}
            disabled={wanted.length >= MOST}
            title={wanted.length >= MOST ? `${MOST} are drawn; take one off first` : undefined}
            onClick={() => onDraw(channel.number, channel.stages.at(-1) ?? "")}
          >
            + {channel.name}
          </button>
        );
      })}
    </header>
  );
}

interface ChipProps {
  channel: Channel;
  stage: string;
  isHand: boolean;
  onDraw: (channel: number, stage: string) => void;
  onHide: (channel: number) => void;
  onHand: (channel: number) => void;
}

function DrawnChip({ channel, stage, isHand, onDraw, onHide, onHand }: ChipProps) {
  const { rigId, takeId } = useParams();
  return (
    <span className={`trace-chip ${isHand ? "is-hand" : ""}`}>
      <button
        type="button"
        className="trace-name"
        aria-pressed={isHand}
        title="Take it in hand: what is selected is measured on it"
        onClick={() => onHand(channel.number)}
      >
        {channel.name}
      </button>
      {channel.stages.length > 0 && (
        <Form.Select
          size="sm"
          aria-label={`Stage of ${channel.name}`}
          value={stage}
          onChange={(event) => onDraw(channel.number, event.target.value)}
        >
          <option value="">as it came{channel.unit && `, ${channel.unit}`}</option>
          {channel.stages.map((one) => (
            <option key={one} value={one}>
              after {one.replaceAll("_", " ")}
            </option>
          ))}
        </Form.Select>
      )}
      <Link
        className="trace-filters"
        to={`/rigs/${rigId}/recordings/${takeId}/filters/${channel.number}`}
        aria-label={`Filters on ${channel.name}`}
        title="Compare filters on it, as it came"
      >
        ∿
      </Link>
      <button
        type="button"
        className="take-off"
        aria-label={`Hide ${channel.name}`}
        onClick={() => onHide(channel.number)}
      >
        ×
      </button>
    </span>
  );
}
