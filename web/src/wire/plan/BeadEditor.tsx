import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import type { Bead } from "../queries";
import { partValue } from "./partValue";

const KINDS: { kind: Bead["kind"]; label: string }[] = [
  { kind: "series", label: "resistor in the wire" },
  { kind: "pull_up", label: "resistor up to a supply" },
  { kind: "pull_down", label: "resistor down to ground" },
  { kind: "capacitor", label: "capacitor to ground" },
  { kind: "pin_pull_up", label: "the pin’s own pull-up" },
];

/** A part to string on a wire. */
export function BeadEditor({ rails, onAdd, onLeave }: { rails: string[]; onAdd: (bead: Bead) => void; onLeave: () => void }) {
  const [kind, setKind] = useState<Bead["kind"]>("series");
  const [text, setText] = useState("");
  const [rail, setRail] = useState("");
  const value = partValue(text);
  const needsValue = kind !== "pin_pull_up";

  function add() {
    const common = { kind, rail: kind === "pull_up" ? rail : "", power_w: 0.25 };
    if (!needsValue) onAdd({ ...common, tolerance: 0.05 });
    else if (value === null) return;
    else if (kind === "capacitor") onAdd({ ...common, farad: value, tolerance: 0.2 });
    else onAdd({ ...common, ohm: value, tolerance: 0.05 });
  }

  return (
    <div className="bead-editor" role="group" aria-label="New part">
      <Form.Select size="sm" aria-label="Part" value={kind} onChange={(event) => setKind(event.target.value as Bead["kind"])}>
        {KINDS.map((one) => (
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
          onKeyDown={(event) => {
            if (event.key === "Enter") add();
            if (event.key === "Escape") onLeave();
          }}
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
      <Button size="sm" disabled={needsValue && value === null} onClick={add}>
        String it on
      </Button>
      <Button size="sm" variant="outline-primary" onClick={onLeave}>
        Leave it
      </Button>
    </div>
  );
}
