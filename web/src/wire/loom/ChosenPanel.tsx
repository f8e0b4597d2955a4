import Button from "react-bootstrap/Button";
import { placeWords } from "../circuit/places";
import { useWireParts } from "../plan/useWireParts";
import { type Bead, type Lead, type Wiring, useWiringChanges } from "../queries";
import { Verdict, Volts } from "./Verdict";
import { type InHand, inHand } from "./targets";

interface Props {
  wiring: Wiring;
  /** What was chosen: an end, a card or a part with legs. */
  chosen: string;
  /** A part that was just dropped on the chosen thread, to be given its value. */
  newPart: Bead["kind"] | null;
  onTake: (id: string) => void;
  onClose: () => void;
}

/** What was chosen on the loom: what stands against it, and what can be done with it. */
export function ChosenPanel({ wiring, chosen, newPart, onTake, onClose }: Props) {
  const end = inHand(wiring, chosen);
  if (end) {
    return (
      <EndPanel
        key={`${end.id} ${newPart}`}
        wiring={wiring}
        end={end}
        newPart={newPart}
        onTake={onTake}
        onClose={onClose}
      />
    );
  }
  const ends = endsOf(wiring, chosen);
  if (ends.length === 0) return null;
  return (
    <div className="loom-panel loom-actions" role="group" aria-label="What is chosen">
      {ends.map((one) => (
        <Button key={one.id} size="sm" variant="outline-primary" onClick={() => onTake(one.id)}>
          Take {"lead" in one ? one.lead.name : one.name}
        </Button>
      ))}
      <Button size="sm" variant="link" onClick={onClose}>
        Close
      </Button>
    </div>
  );
}

/** The ends of a card that are loose, or the legs of a part. */
function endsOf(wiring: Wiring, chosen: string): InHand[] {
  const device = wiring.devices.find((one) => `card ${one.id}` === chosen);
  const part = wiring.parts.find((one) => `tag ${one.key}` === chosen);
  const ids = [
    ...(device?.leads.filter((lead) => !lead.end).map((lead) => `${device.id}.${lead.name}`) ?? []),
    ...(part ? Object.keys(part.ends).map((leg) => `${part.key} ${leg}`) : []),
  ];
  return ids.flatMap((id) => inHand(wiring, id) ?? []);
}

function EndPanel({ wiring, end, newPart, onTake, onClose }: Omit<Props, "chosen"> & { end: InHand }) {
  const changes = useWiringChanges(wiring);
  const findings = wiring.findings.filter((finding) =>
    finding.spots.some((spot) =>
      "lead" in end ? spot.device === end.device.id && spot.lead === end.lead.name : spot.part === end.part.key,
    ),
  );
  return (
    <div className="loom-panel" role="group" aria-label={end.name}>
      <p>
        <b>{end.name}</b> {end.to ? `to ${placeWords(wiring, end.to)}` : "goes nowhere yet"}
      </p>
      <Volts pins={wiring.pins} place={end.to} />
      <Verdict findings={findings} none="Nothing stands against it." />
      <span className="loom-actions">
        {"lead" in end && <StrungParts wiring={wiring} end={end} newPart={newPart} />}
        <Button size="sm" variant="outline-primary" onClick={() => onTake(end.id)}>
          {end.to ? "Lead it elsewhere" : "Take it"}
        </Button>
        {"lead" in end && end.to && (
          <Button size="sm" variant="outline-primary" onClick={() => void changes.disconnect(end.device, end.lead)}>
            Take it off
          </Button>
        )}
        <Button size="sm" variant="link" onClick={onClose}>
          Close
        </Button>
      </span>
    </div>
  );
}

function StrungParts({
  wiring,
  end,
  newPart,
}: {
  wiring: Wiring;
  end: Extract<InHand, { lead: Lead }>;
  newPart: Bead["kind"] | null;
}) {
  const parts = useWireParts(wiring, end.device, end.lead, newPart);
  return (
    <>
      <span className="beads">{parts.chips}</span>
      {parts.editor && <div className="loom-editor">{parts.editor}</div>}
    </>
  );
}
