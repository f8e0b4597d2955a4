import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import type { Bead } from "../queries";
import { partText, partValue } from "./partValue";

export const BEAD_KINDS: { kind: Bead["kind"]; label: string }[] = [
  { kind: "series", label: "resistor in the wire" },
  { kind: "pull_up", label: "resistor up to a supply" },
  { kind: "pull_down", label: "resistor down to ground" },
  { kind: "capacitor", label: "capacitor to ground" },
  { kind: "pin_pull_up", label: "the pin’s own pull-up" },
];
const TOLERANCES = [0.005, 0.01, 0.02, 0.05, 0.1, 0.2];
const BODIES = [
  { watt: 0.125, label: "⅛ W" },
  { watt: 0.25, label: "¼ W" },
  { watt: 0.5, label: "½ W" },
  { watt: 1, label: "1 W" },
  { watt: 2, label: "2 W" },
  { watt: 5, label: "5 W" },
];
const USUAL = { resistor: 0.05, capacitor: 0.2, body: 0.25 };

interface Props {
  /** The part being changed; null for a new one. */
  bead: Bead | null;
  /** What a new one is at first. */
  kind: Bead["kind"];
  rails: string[];
  /** Puts the part one place nearer to the device; absent when it is there already. */
  onNearer?: (() => void) | undefined;
  onKeep: (bead: Bead) => void;
  onLeave: () => void;
}

/** A part on a wire: its kind, value, tolerance and body. */
export function BeadEditor({ bead, kind: first, rails, onNearer, onKeep, onLeave }: Props) {
  const [kind, setKind] = useState<Bead["kind"]>(bead?.kind ?? first);
  const [text, setText] = useState(partText(bead?.ohm ?? bead?.farad ?? null));
  const [rail, setRail] = useState(bead?.rail ?? "");
  const [tolerance, setTolerance] = useState(
    bead?.tolerance ?? (first === "capacitor" ? USUAL.capacitor : USUAL.resistor),
  );
  const [body, setBody] = useState(bead?.power_w ?? USUAL.body);
  const value = partValue(text);
  const needsValue = kind !== "pin_pull_up";
  const isResistor = needsValue && kind !== "capacitor";

  function turnInto(next: Bead["kind"]) {
    if ((next === "capacitor") !== (kind === "capacitor")) {
      setText("");
      setTolerance(next === "capacitor" ? USUAL.capacitor : USUAL.resistor);
    }
    setKind(next);
  }

  function keep() {
    const common = { kind, rail: kind === "pull_up" ? rail : "" };
    if (!needsValue) onKeep({ ...common, tolerance: USUAL.resistor, power_w: USUAL.body });
    else if (value === null) return;
    else if (kind === "capacitor") onKeep({ ...common, farad: value, tolerance, power_w: USUAL.body });
    else onKeep({ ...common, ohm: value, tolerance, power_w: body });
  }

  return (
    <div
      className="bead-editor"
      role="group"
      aria-label={bead ? "Change the part" : "New part"}
      onKeyDown={(event) => event.key === "Escape" && onLeave()}
    >
      <Form.Select
        size="sm"
        aria-label="Part"
        value={kind}
        onChange={(event) => turnInto(event.target.value as Bead["kind"])}
      >
        {BEAD_KINDS.map((one) => (
          <option key={one.kind} value={one.kind}>
            {one.label}
          </option>
        ))}
      </Form.Select>
      {needsValue && (
        <Form.Control
          size="sm"
          aria-label="Value"
          value={text}
          placeholder={kind === "capacitor" ? "100n" : "1.8k"}
          isInvalid={text !== "" && value === null}
          autoFocus
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && keep()}
        />
      )}
      {kind === "pull_up" && (
        <Form.Select size="sm" aria-label="Up to" value={rail} onChange={(event) => setRail(event.target.value)}>
          <option value="">the logic supply</option>
          {rails.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </Form.Select>
      )}
      {needsValue && (
        <Form.Select
          size="sm"
          aria-label="Tolerance"
          value={tolerance}
          onChange={(event) => setTolerance(Number(event.target.value))}
        >
          {withOwn(TOLERANCES, tolerance).map((one) => (
            <option key={one} value={one}>
              ± {Number((100 * one).toPrecision(3))} %
            </option>
          ))}
        </Form.Select>
      )}
      {isResistor && (
        <Form.Select size="sm" aria-label="Body" value={body} onChange={(event) => setBody(Number(event.target.value))}>
          {withOwn(
            BODIES.map(({ watt }) => watt),
            body,
          ).map((watt) => (
            <option key={watt} value={watt}>
              {BODIES.find((one) => one.watt === watt)?.label ?? `${watt} W`}
            </option>
          ))}
        </Form.Select>
      )}
      <Button size="sm" disabled={needsValue && value === null} onClick={keep}>
        Keep it
      </Button>
      {onNearer && (
        <Button size="sm" variant="outline-primary" onClick={onNearer}>
          Nearer the device
        </Button>
      )}
      <Button size="sm" variant="outline-primary" onClick={onLeave}>
        Cancel
      </Button>
    </div>
  );
}

/** The usual choices, and the one there is when it is none of them. */
function withOwn(usual: number[], own: number): number[] {
  return usual.includes(own) ? usual : [...usual, own].sort((one, other) => one - other);
}
