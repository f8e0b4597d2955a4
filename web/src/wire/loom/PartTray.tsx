import type { PointerEvent } from "react";
import { BEAD_KINDS } from "../plan/BeadEditor";
import { BeadGlyph } from "../plan/BeadGlyph";
import type { Bead } from "../queries";

const SHORT: Record<Bead["kind"], string> = {
  series: "in the wire",
  pull_up: "up to a supply",
  pull_down: "down to ground",
  capacitor: "capacitor",
  pin_pull_up: "own pull-up",
};

interface Props {
  /** A part is taken in hand, by a press that may go on as a drag. */
  onTake: (kind: Bead["kind"], event: PointerEvent) => void;
  /** A part was pressed and let go, or chosen by a key. */
  onPress: (kind: Bead["kind"]) => void;
  isAdding: boolean;
  onAdd: () => void;
}

/** Parts to string on a thread: dragged there, or pressed for the chosen one. */
export function PartTray({ onTake, onPress, isAdding, onAdd }: Props) {
  return (
    <div className="part-tray" role="group" aria-label="Parts to string on a thread">
      {BEAD_KINDS.map(({ kind, label }) => (
        <button
          key={kind}
          type="button"
          title={`${label}: drag it onto a thread`}
          aria-label={label}
          onPointerDown={(event) => {
            // A finger's press would be held by the button, and the loom never see it come.
            if (event.currentTarget.hasPointerCapture(event.pointerId)) {
              event.currentTarget.releasePointerCapture(event.pointerId);
            }
            onTake(kind, event);
          }}
          onClick={() => onPress(kind)}
        >
          {kind !== "pin_pull_up" && <BeadGlyph bead={{ kind, bands: [] }} />}
          {SHORT[kind]}
        </button>
      ))}
      <button type="button" className="link" aria-expanded={isAdding} onClick={onAdd}>
        other part …
      </button>
    </div>
  );
}
