import Form from "react-bootstrap/Form";
import type { Take, Wanted } from "./queries";

interface Props {
  take: Take;
  wanted: Wanted[];
  hand: Wanted | null;
  onChange: (wanted: Wanted[]) => void;
  onHand: (channel: number) => void;
}

const MOST = 12;

/** Which channels are drawn, raw or after which stage, and which one is in hand. */
export function ChannelList({ take, wanted, hand, onChange, onHand }: Props) {
  function toggle(channel: number, isOn: boolean, stage: string) {
    const rest = wanted.filter((one) => one.channel !== channel);
    onChange(isOn ? [...rest, { channel, stage }].sort((a, b) => a.channel - b.channel) : rest);
  }
  return (
    <ul className="channel-list" aria-label="Channels">
      {take.channels.map((channel) => {
        const shown = wanted.find((one) => one.channel === channel.number);
        const isHand = hand?.channel === channel.number;
        return (
          <li key={channel.number} className={isHand ? "is-hand" : ""}>
            <Form.Check
              id={`channel-${channel.number}`}
              checked={shown !== undefined}
              disabled={!shown && wanted.length >= MOST}
              label={<span className="visually-hidden">draw {channel.name}</span>}
              onChange={(event) => toggle(channel.number, event.target.checked, channel.stages.at(-1) ?? "")}
            />
            <button type="button" className="channel-name" aria-pressed={isHand} disabled={!shown} onClick={() => onHand(channel.number)}>
              <b>{channel.name}</b> <span className="quiet">{channel.sensor_name || channel.unit}</span>
            </button>
            {channel.stages.length > 0 && (
              <Form.Select size="sm" aria-label={`Stage of ${channel.name}`} value={shown?.stage ?? ""} disabled={!shown} onChange={(event) => toggle(channel.number, true, event.target.value)}>
                <option value="">raw</option>
                {channel.stages.map((stage) => (
                  <option key={stage} value={stage}>
                    after {stage.replaceAll("_", " ")}
                  </option>
                ))}
              </Form.Select>
            )}
          </li>
        );
      })}
    </ul>
  );
}
